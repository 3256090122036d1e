import { ForceFields, type Motion, movingWalls } from '#core/flow';
import { GRAVITY } from '#core/units';
import { type KernelTeam, type MovingSolid, type Pocket, type PressureReport, PressureSolver } from '#core/grid';
import { Band, type Coarse, coarseOf } from './band';
import { type Closed, carryOn } from './carry-on';
import { type Amount, evenOut } from './evening';
import { Debt, type DebtState } from './debt';
import type { Born } from './emission';
import type { LiquidGrid } from './grid';
import { pushBorn } from './born';
import { closedByMoving } from './moving-faces';
import { beforeMoving, needSweep, sweepMoving } from './moving-sweep';
import type { LiquidMatter, LiquidOptions, LiquidSource } from './options';
import type { Particles } from './particles';
import type { ParticleLie, Stage } from './report';
import { lieOf } from './lie';
import { RUB_LIST, beforeRubbing, rubAtWalls } from './rub';
import type { Sorter } from './sorter';
import { distanceTable } from '#core/math';
import { curveSurface } from './tension';
import { Viscosity, type ViscosityReport } from './viscosity';

/** Entries of the table of distances, see src/kernels/assembly/liquid-skin.ts. */
const TABLE = 256;
/** Bytes of scratch of a thread: blocks of a tile's sums, and what a tile's cells and those beside hold. */
const BLOCKS = 32_000;
const CELLS = 11_264;
/** Layers that velocities are carried on before the pressure: cells at the surface have faces that no particle is near to. */
const LAYERS_BEFORE = 2;
/** Layers that they are carried on for what is written. */
const LAYERS_SHOWN = 2;
/** Largest |divergence| x dt that may be left. */
const DIVERGENCE = 1e-3;
/** Least distance of particles from walls, voxels. */
const GAP = 0.02;
/** Entries of what moveParticles is told. */
const TOLD = 32;
/** Of the limit box, by axis. */
const SIDES = { low: ['left', 'floor', 'back'], high: ['right', 'ceiling', 'front'] } as const;
/** Part of its energy that a particle pays at most for the volume correction on the way of a voxel: what is slow does not live on it. */
const PURSE = 0.02;
/** Particles around one that is alone in its voxel, at most. */
const ALONE = 1.2;
const SUMS = 32;

export interface Measured {
  /** Voxels that the particles hold. */
  readonly volume: number;
  /** Sum over particles of volume x speed^2, and of volume x height; voxels, m/s, metres. */
  readonly squares: number;
  readonly heights: number;
  readonly fastest: number;
  readonly broken: boolean;
}

export interface Stepped {
  readonly pressure: PressureReport;
  /** Voxels that left through open walls, and farthest that a particle went. */
  readonly left: number;
  readonly farthest: number;
  /** Particles that lie in a moving solid all the same, and those that met a wall. */
  readonly inside: number;
  readonly met: number;
  /** How far against gravity the volume correction took particles: voxels of volume x voxels. */
  readonly raised: number;
  /** What the liquid paid for that with its motion: voxels of volume x (m/s)^2. */
  readonly paid: number;
  /** Iterations of the volume correction. */
  readonly evened: number;
  /** null: nothing is viscous. */
  readonly viscous: ViscosityReport | null;
  readonly surfaceVoxels: number;
  readonly liquidCells: number;
  /** Whether no liquid has air or an open wall beside it: then nothing more goes in. */
  readonly closed: boolean;
  /** null: nobody asked. */
  readonly lie: ParticleLie | null;
}

/** Solids that may move, at the end of a substep. */
export interface Placed {
  readonly solids: readonly MovingSolid[];
  /** Whether all of them are where they were at the end of the substep before, and whether none moves in this one. */
  readonly stood: boolean;
  readonly stand: boolean;
}

/** Voxels around particles that are awake: as far as they go in a substep, and what their transfers reach. */
export const growOf = ({ stepping }: LiquidOptions): number => Math.ceil(stepping.cfl) + 3;

/** One substep of the liquid. */
export class LiquidStep {
  readonly #pressure: PressureSolver;
  readonly #told: number;
  readonly #fieldList: number;
  readonly #moveList: number;
  readonly #rubList: number;
  readonly #scratch: number;
  readonly #table: number;
  readonly #sums: number;
  readonly #flags: number;
  readonly #viscosity: Viscosity | null;
  /** Whether solids that stand have to be swept against as well. */
  readonly #sweeps: boolean;
  readonly #coarse: Coarse | null;
  readonly #band: Band | null;
  readonly #forceFields: ForceFields;
  /** Against gravity, of length 1; 0 without one. */
  readonly #up: readonly [number, number, number];
  readonly #debt = new Debt();
  /** For the volume correction, in the last substep: volume x speed squared. */
  #paid = 0;
  /** Fastest particle at the last measurement, m/s. */
  #fastest = 0;
  /** Faces that moving solids close in this substep. */
  #closed: Closed = null;
  /** All of the liquid, when it has no surface: its pressure is known up to a constant. */
  #pockets: readonly Pocket[] = [];

  constructor(
    private readonly team: KernelTeam,
    private readonly options: LiquidOptions,
    private readonly grid: LiquidGrid,
    private readonly particles: Particles,
    private readonly sorter: Sorter,
    private readonly motion: Motion<LiquidSource, LiquidMatter>,
    private readonly clock: () => number,
    private readonly cancelled: () => boolean,
    capacity: number,
  ) {
    const tileCapacity = Math.ceil(capacity / 512) + 1;
    this.#pressure = new PressureSolver(team, grid.hierarchy, tileCapacity);
    this.#told = team.allocate(TOLD * 4);
    this.#fieldList = team.allocate(64);
    this.#moveList = team.allocate(64);
    this.#rubList = team.allocate(RUB_LIST);
    this.#scratch = team.allocate(team.threads * Math.max(BLOCKS, CELLS));
    this.#table = team.allocate(TABLE * 4);
    team.floats(this.#table, TABLE).set(distanceTable(TABLE));
    const { gravity } = options.forces;
    const g = Math.max(1e-9, Math.hypot(...gravity));
    this.#up = [-gravity[0] / g, -gravity[1] / g, -gravity[2] / g];
    this.#forceFields = new ForceFields(team, options, motion);
    this.#viscosity = isViscous(options) ? new Viscosity(team, grid, capacity, tileCapacity) : null;
    this.#sweeps = needSweep(options);
    this.#coarse = coarseOf(options);
    this.#band = this.#coarse ? new Band(team, grid, particles, sorter, this.#coarse, options.particles.along, capacity) : null;
    this.#sums = team.allocate(tileCapacity * SUMS);
    this.#flags = team.allocate(tileCapacity);
  }

  /**
   * Carries the liquid through [time, time + dt]. `kick`: seconds of gravity that the velocities get: they belong to the middles of substeps, so that free fall
   * is exact whatever the substeps (leapfrog). `scale`: what the pressure is multiplied with to be the first guess. `expected`: voxels that there should be. `looks`: whether how particles lie is told. `born`: what sources have just
   * given.
   */
  run(
    time: number,
    dt: number,
    kick: number,
    scale: number,
    expected: number,
    { solids: moving, stood, stand }: Placed,
    seconds: Record<Stage, number>,
    looks: boolean,
    born: readonly Born[],
  ): Stepped {
    const { team, grid, particles, sorter, options } = this;
    const f = grid.fields;
    const timed = <T>(stage: Stage, body: () => T): T => {
      const start = this.clock();
      const result = body();
      seconds[stage] += this.clock() - start;
      return result;
    };
    const grow = growOf(options);
    let left = 0;
    timed('sorting', () => {
      grid.follow(particles, grow, moving, stood, options.bounds.mode);
      left = sorter.sort(particles, grid);
    });
    const { slots, context } = grid;
    timed('transfer', () => {
      this.#deposit();
    });
    const { surfaceVoxels, liquidCells, faces } = timed('surface', () => this.#surface(scale));
    const lie = looks
      ? timed('surface', () => lieOf(team, grid, particles, sorter, this.#coarse?.least ?? 0, this.#scratch, this.#sums))
      : null;
    timed('sorting', () => this.#band?.merge());
    timed('forces', () => {
      for (let n = 0; n < 3; n++) {
        const field = [f.u, f.v, f.w][n] ?? 0;
        for (let layer = 1; layer <= LAYERS_BEFORE; layer++)
          team.launch('spreadFaces', slots, context, field, 0, grid.known[n] ?? 0, layer);
        team.launch('copyTiles', slots, context, field, [f.u0, f.v0, f.w0][n] ?? 0);
        const g = options.forces.gravity[n] ?? 0;
        if (g !== 0) team.launch('addToKnown', slots, context, field, grid.known[n] ?? 0, g * kick);
      }
      this.#push(time, dt);
    });
    const pushing = stand ? [] : moving;
    this.#closed = pushing.length > 0 ? closedByMoving(team, grid, grid.geometry, pushing, options.voxelSize) : null;
    const viscosity = this.#viscosity;
    let pressure = timed('pressure', () => this.#project(dt, kick, pushing, born));
    // What the pressure holds is taken off before: walls that do not slip would hold against gravity by themselves, and a pool at rest turn over (9 cm/s at 0.01 m^2/s).
    const viscous = viscosity
      ? timed('viscosity', () =>
          viscosity.solve(dt, options.voxelSize, this.#fastest + GRAVITY * kick, () => {
            this.#setClosed();
          }),
        )
      : null;
    if (viscous && viscous.iterations > 0)
      pressure = bothOf(
        pressure,
        timed('pressure', () => this.#projectAgain(dt, pushing, born)),
      );
    const corrected = timed('volume', () => this.#evenOut(dt, { expected, seen: surfaceVoxels, faces }));
    const { farthest, met, raised, inside } = timed('moving', () => {
      carryOn(team, grid, grow, corrected !== null, this.#closed);
      const before =
        pushing.length > 0 || (moving.length > 0 && this.#sweeps) ? beforeMoving(team, grid, grid.geometry, sorter, particles) : null;
      const moved = this.#move(time, dt, kick, corrected !== null);
      // Where solids move, the distances are of where they come to: only the sweep knows who lies in them.
      if (!before) return { ...moved, inside: lie?.inside ?? 0 };
      const still = (x: number, y: number, z: number): number => grid.geometry.stillDistance(x, y, z);
      const swept = sweepMoving(before, particles, this.motion, moving, options, still, time, dt);
      return { ...moved, met: moved.met + swept.stopped, inside: swept.inside };
    });
    return {
      lie,
      inside,
      pressure,
      left,
      farthest,
      met,
      raised,
      surfaceVoxels,
      liquidCells,
      closed: this.#pockets.length > 0,
      paid: this.#paid,
      evened: corrected?.iterations ?? 0,
      viscous,
    };
  }

  /** The list of forces, each in its region. */
  #push(time: number, dt: number): void {
    const { team, grid, options } = this;
    if (options.forces.fields.length === 0) return;
    const f = grid.fields;
    const { window, size, geometry, limit } = grid;
    const hierarchy = { finest: grid.everywhere } as typeof grid.hierarchy;
    const { wind } = this.motion.forces(time + dt / 2);
    const given = { u: f.u, v: f.v, w: f.w, phi: f.x, a: f.ex, b: f.ey, c: f.ez, r: f.r, z: f.z, p: f.p, q: f.q, density: f.amount };
    this.#forceFields.apply({ hierarchy, window, size, geometry, limit, wind }, given, time, dt);
    for (const name of ['p', 'q', 'r', 'z'] as const) team.launch('fillTiles', grid.slots, grid.context, f[name], 0);
  }

  /** Largest acceleration that forces can give, m/s^2. */
  acceleration(time: number): number {
    return Math.hypot(...this.options.forces.gravity) + this.#forceFields.acceleration(time, 1);
  }

  #deposit(): void {
    const { team, grid, particles, sorter } = this;
    const f = grid.fields;
    const { slots, context, window: w } = grid;
    for (const name of ['u', 'v', 'w', 'thick', 'p', 'q', 'r', 'amount'] as const) team.launch('fillTiles', slots, context, f[name], 0);
    team.words(this.#fieldList, 8).set([f.u, f.p, f.v, f.q, f.w, f.r, f.thick, f.amount]);
    for (const { list, count } of sorter.colours) {
      team.launch(
        'depositParticles',
        count,
        context,
        list,
        sorter.tileStart,
        particles.places,
        particles.motions,
        particles.marks,
        particles.affine,
        this.#fieldList,
        w.ox,
        w.oy,
        w.oz,
        this.#scratch,
      );
    }
    [
      [f.u, f.p],
      [f.v, f.q],
      [f.w, f.r],
    ].forEach(([field, weight], n) => {
      team.launch('shareOut', slots, context, field ?? 0, weight ?? 0, grid.known[n] ?? 0);
    });
    for (const name of ['p', 'q', 'r'] as const) team.launch('fillTiles', slots, context, f[name], 0);
  }

  #surface(scale: number): { surfaceVoxels: number; liquidCells: number; faces: number } {
    const { team, grid, particles, sorter } = this;
    const f = grid.fields;
    const { slots, context, window: w } = grid;
    team.launch(
      'liquidDistance',
      slots,
      context,
      grid.slotOf,
      ...grid.tilesAcross,
      sorter.cellStart,
      particles.places,
      particles.motions,
      grid.solid,
      grid.sdf,
      this.#table,
      f.phi,
      w.ox,
      w.oy,
      w.oz,
      this.#scratch,
      this.#coarse?.least ?? 0,
    );
    team.launch('markLiquid', slots, context, grid.solid, grid.sdf, f.phi, f.amount, f.x, this.#sums);
    const volumes = team.doubles(this.#sums, slots * 4);
    const cells = team.words(this.#sums, slots * 8);
    let surfaceVoxels = 0;
    let liquidCells = 0;
    for (let s = 0; s < slots; s++) {
      surfaceVoxels += volumes[4 * s] ?? 0;
      liquidCells += cells[8 * s + 2] ?? 0;
    }
    team.launch('surfaceDepth', slots, context, grid.solid, f.phi, this.#sums);
    const faces = team.words(this.#sums, slots).reduce((n, v) => n + v, 0);
    const { level } = grid;
    team.launch('findSurface', level.count, level.context, this.#flags);
    const flags = team.bytes(this.#flags, level.count);
    grid.giveBlocks(flags);
    this.#pockets = liquidCells > 0 && flags.every((f) => f === 0) ? [{ cells: new Int32Array(liquidCells) }] : [];
    grid.hierarchy.followStatus();
    team.launch('surfaceDiagonal', level.count, level.context, grid.solid, f.phi);
    if (scale !== 1) team.launch('scaleTiles', slots, context, f.x, scale);
    return { surfaceVoxels, liquidCells, faces };
  }

  /** Closed faces take the velocity of the moving solid that closes them. */
  #setClosed(): void {
    const f = this.grid.fields;
    this.#closed?.forEach(({ index, velocity }, axis) => {
      const field = this.team.floats([f.u, f.v, f.w][axis] ?? 0, this.grid.size);
      for (let n = 0; n < index.length; n++) field[index[n] ?? 0] = velocity[3 * n + axis] ?? 0;
    });
  }

  #project(dt: number, kick: number, moving: readonly MovingSolid[], born: readonly Born[]): PressureReport {
    const { team, grid, options } = this;
    const f = grid.fields;
    const curved = curveSurface(team, grid, options, dt);
    const report = this.#solve(f.x, dt, moving, born, curved);
    beforeRubbing(team, grid, options);
    this.#subtract([f.u, f.v, f.w], [f.u0, f.v0, f.w0], f.x, curved);
    rubAtWalls(team, grid, options, moving, kick, this.#rubList);
    return report;
  }

  /** Takes off the divergence that viscosity made; the first pressure stays as the guess for the next substep. */
  #projectAgain(dt: number, moving: readonly MovingSolid[], born: readonly Born[]): PressureReport {
    const { team, grid } = this;
    const f = grid.fields;
    team.launch('fillTiles', grid.slots, grid.context, f.y, 0);
    const report = this.#solve(f.y, dt, moving, born, 0);
    this.#subtract([f.u, f.v, f.w], [f.u0, f.v0, f.w0], f.y, 0);
    return report;
  }

  /** The pressure of the velocities as they are, into `x`. `curved`: what tension makes of it at the surface, or 0. */
  #solve(x: number, dt: number, moving: readonly MovingSolid[], born: readonly Born[], curved: number): PressureReport {
    const { team, grid, options } = this;
    const f = grid.fields;
    const { level } = grid;
    team.launch('divergence', level.count, level.context, f.u, f.v, f.w, f.b, this.#sums);
    if (moving.length > 0) {
      const { cells, flux } = movingWalls(team, level, grid.geometry, moving, options.voxelSize);
      const b = team.floats(f.b, grid.size);
      for (let n = 0; n < cells.length; n++) b[cells[n] ?? 0] = (b[cells[n] ?? 0] ?? 0) + (flux[n] ?? 0);
    }
    if (this.#pockets.length === 0) pushBorn(team, grid, born, options.voxelSize / dt);
    if (curved !== 0) team.launch('pushSurface', level.count, level.context, grid.solid, f.phi, curved, f.b);
    return this.#pressure.solve(
      { x, b: f.b, r: f.r, z: f.z, p: f.p, q: f.q, best: f.best },
      {
        tolerance: options.stepping.tolerance,
        iterations: options.stepping.iterations,
        divergence: DIVERGENCE,
        dtOverH: dt / options.voxelSize,
      },
      this.#pockets,
      this.cancelled,
    );
  }

  /** `before`: the fields before forces and pressure; 0: they were nothing. */
  #subtract(fields: readonly [number, number, number], before: readonly [number, number, number], pressure: number, curved: number): void {
    const { team, grid } = this;
    const { level } = grid;
    const strides = [1, level.sx, level.sp];
    fields.forEach((field, n) => {
      const [known, stride] = [grid.known[n] ?? 0, strides[n] ?? 1];
      team.launch(
        'subtractLiquidGradient',
        grid.slots,
        grid.context,
        grid.solid,
        grid.fields.phi,
        pressure,
        field,
        known,
        stride,
        2 * n,
        curved,
      );
      team.launch('pushHanging', grid.slots, grid.context, field, before[n] ?? 0, known);
      team.launch('settleHanging', grid.slots, grid.context, known);
    });
  }

  #evenOut(dt: number, amount: Amount): PressureReport | null {
    const { team, grid, options } = this;
    const f = grid.fields;
    const report = evenOut(team, grid, this.#pressure, options, dt, amount, this.#sums, this.#pockets, this.cancelled);
    if (!report) return null;
    for (const name of ['ex', 'ey', 'ez'] as const) team.launch('fillTiles', grid.slots, grid.context, f[name], 0);
    this.#subtract([f.ex, f.ey, f.ez], [0, 0, 0], f.y, 0);
    return report;
  }

  #move(time: number, dt: number, kick: number, corrected: boolean): { farthest: number; met: number; raised: number } {
    const { team, grid, particles, sorter, options } = this;
    const f = grid.fields;
    const { matter, forces, bounds } = options;
    const h = options.voxelSize;
    const { min, max } = bounds.limit;
    // Speed squared that a voxel up is worth.
    const pull = 2 * Math.hypot(...forces.gravity) * h;
    team
      .floats(this.#told, TOLD)
      .set([
        dt,
        1 / h,
        Math.exp(-matter.blendRate * dt),
        Math.exp(-forces.airDrag * dt),
        matter.bounce,
        matter.friction,
        GAP,
        ...this.motion.forces(time + dt / 2).wind,
        min[0] / h,
        min[1] / h,
        min[2] / h,
        max[0] / h,
        max[1] / h,
        max[2] / h,
        ...this.#up,
        ...forces.gravity.map((g) => g * kick),
        matter.bounce > 0 || matter.friction > 0 ? ALONE / options.particles.along ** 3 : 0,
        ...SIDES.low.map((side, a) => (bounds.walls[side] === 'closed' ? (min[a] ?? 0) / h + GAP : -1e30)),
        ...SIDES.high.map((side, a) => (bounds.walls[side] === 'closed' ? (max[a] ?? 0) / h - GAP : 1e30)),
        this.#debt.price * pull,
        (PURSE * dt) / h,
      ]);
    const pushes = corrected ? [f.ex, f.ey, f.ez] : [0, 0, 0];
    team.words(this.#moveList, 10).set([f.u, f.v, f.w, f.u0, f.v0, f.w0, ...pushes, f.amount]);
    team.launch(
      'moveParticles',
      grid.slots,
      grid.context,
      sorter.tileStart,
      particles.places,
      particles.motions,
      particles.affine,
      this.#moveList,
      grid.slotOf,
      grid.sdf,
      ...grid.tilesAcross,
      grid.window.ox,
      grid.window.oy,
      grid.window.oz,
      this.#told,
      this.#sums,
    );
    const told = team.floats(this.#sums, grid.slots * 8);
    let [farthest, met, raised, stirred, paid] = [0, 0, 0, 0, 0];
    for (let s = 0; s < grid.slots; s++) {
      farthest = Math.max(farthest, told[8 * s] ?? 0);
      met += told[8 * s + 1] ?? 0;
      raised += told[8 * s + 2] ?? 0;
      stirred += told[8 * s + 3] ?? 0;
      paid += told[8 * s + 4] ?? 0;
    }
    this.#debt.took(raised, stirred, pull > 0 ? paid / pull : 0);
    this.#paid = paid;
    return { farthest, met, raised };
  }

  /**
   * Velocities of the particles at the end of the last substep (theirs are of its middle), into the other of their two arrays: until they are sorted again. `part`: of what the substep changed, what is
   * still to come.
   */
  endVelocities(part: number): Float32Array {
    const { team, grid, particles } = this;
    const { window: w, fields: f } = grid;
    const into = particles.other.motions;
    team.words(this.#moveList, 4).set([f.u0, f.v0, f.w0, f.amount]);
    team.launch(
      'endVelocities',
      Math.ceil(particles.count / 1024),
      grid.context,
      particles.places,
      particles.motions,
      particles.count,
      this.#moveList,
      ...grid.tilesAcross,
      w.ox,
      w.oy,
      w.oz,
      this.#told,
      part,
      into,
    );
    return team.floats(into, particles.count * 4);
  }

  /**
   * The grid as the particles are now: sorted, their distance and velocities, carried on around them. Returns the voxels that left. A run that does so at the
   * end of each frame goes on as one that does not, but for where the window lies.
   */
  settle(moving: readonly MovingSolid[]): number {
    const { team, grid, particles, sorter, options } = this;
    const f = grid.fields;
    grid.follow(particles, growOf(options), moving, true, options.bounds.mode);
    const left = sorter.sort(particles, grid);
    this.#deposit();
    this.#surface(1);
    [f.u, f.v, f.w].forEach((field, n) => {
      for (let layer = 1; layer <= LAYERS_SHOWN; layer++)
        team.launch('spreadFaces', grid.slots, grid.context, field, 0, grid.known[n] ?? 0, layer);
    });
    return left;
  }

  /** What was seeded as fine as at a surface, and lies deep all the same: along walls, and where bodies meet. */
  coarsen(moving: readonly MovingSolid[]): void {
    if (!this.#band) return;
    this.settle(moving);
    this.#band.merge();
  }

  /** Splits what has come near the surface: after the measurement, which knows only what was sorted. */
  split(): void {
    this.#band?.split();
  }

  get debt(): DebtState {
    return this.#debt.state;
  }

  /** As after a measurement. */
  restore(fastest: number, debt: DebtState): void {
    this.#fastest = fastest;
    this.#debt.state = debt;
  }

  /** Sums over the particles as they are sorted. */
  measure(): Measured {
    const { team, grid, particles, sorter, options } = this;
    if (grid.slots === 0 || sorter.tileStart === 0) return { volume: 0, squares: 0, heights: 0, fastest: 0, broken: false };
    team.launch('measureParticles', grid.slots, sorter.tileStart, particles.places, particles.motions, ...this.#up, this.#sums);
    const doubles = team.doubles(this.#sums, grid.slots * 4);
    const floats = team.floats(this.#sums, grid.slots * 8);
    let [volume, squares, heights, fastest, broken] = [0, 0, 0, 0, false];
    for (let s = 0; s < grid.slots; s++) {
      volume += doubles[4 * s] ?? 0;
      squares += doubles[4 * s + 1] ?? 0;
      heights += doubles[4 * s + 2] ?? 0;
      fastest = Math.max(fastest, floats[8 * s + 6] ?? 0);
      if ((floats[8 * s + 7] ?? 0) > 0) broken = true;
    }
    this.#fastest = fastest;
    return { volume, squares, heights: heights * options.voxelSize, fastest, broken };
  }
}

/** What two solves of one substep achieved together. */
const bothOf = (a: PressureReport, b: PressureReport): PressureReport => ({
  converged: a.converged && b.converged,
  iterations: a.iterations + b.iterations,
  relativeResidual: Math.max(a.relativeResidual, b.relativeResidual),
  divergence: Math.max(a.divergence, b.divergence),
});

/** Whether any of it has, or may come to have, a viscosity. */
const isViscous = ({ matter, sources }: LiquidOptions): boolean => matter.viscosity > 0 || sources.some((s) => (s.viscosity ?? 0) > 0);
