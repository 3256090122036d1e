import { RuddleError } from '#core/errors';
import { type Distance, union } from '#core/geometry';
import { type Clock, type KernelTeam, type PressureReport, PressureSolver, RECORD_WORDS, WALLS } from '#core/grid';
import { EdgeVelocities, carryReflected, schemes } from './advection';
import type { Census } from './activity';
import type { Bounds } from './bounds';
import { advectCarried, carriedFields, followDensity } from './carried';
import type { ForceFields } from './force-fields';
import type { GasFields } from './fields';
import { AIR, GRAVITY, type GasOptions } from './options';
import { type Motion } from './moving';
import { type MovingWalls, NO_WALLS, movingWalls } from './moving-walls';
import type { MassLedger, Stage } from './report';
import { roughness } from './spectrum';
import { sharpenCells, smoothFaces, spreadCells } from './smoothing';
import type { PreparedSource } from './prepared';
import { applySources, emitsDuring, sourceVoxels } from './sources';
import { type TurbulenceLattice, noiseArguments } from './turbulence';

/** Maxima and sums over the active tiles. */
export interface Statistics {
  density: number;
  heat: number;
  speed: number;
  /** Density x voxels. */
  mass: number;
  /** Half the sum of squared face velocities. */
  energy: number;
}

/** Work done in a substep, in half squared velocity x voxels; turned into joules by the caller. */
export interface Work {
  buoyancy: number;
  forces: number;
  confinement: number;
  smoothing: number;
  loss: number;
}

const LIST_WORDS = 16;
/** A correction that would be larger than this part of the density, in one substep, is not made: something else is wrong. */
const MOST_CORRECTED = 0.2;
/** Largest |divergence| x dt left anywhere: a voxel's content changed by 0.5 % at most. */
const DIVERGENCE = 5e-3;

/** One substep of the gas: advection, sources, fading, forces, projection (operator splitting, Stam 1999). */
export class GasStep {
  readonly statistics: Statistics = { density: 0, heat: 0, speed: 0, mass: 0, energy: 0 };
  readonly #edges: EdgeVelocities;
  readonly #pressure: PressureSolver;
  readonly #stats: number;
  readonly #list: number;
  #gather = 0;
  #gatherTiles = 0;
  #cutRecords = 0;
  #cutCount = 0;
  #walls: MovingWalls = NO_WALLS;
  /** Whether the measured energy is that of the present tiles. */
  #energyKnown = false;
  /** Middle of the last substep. */
  #time = 0;
  /** Of the last substep, see FrameReport. */
  trapped = 0;
  /** Forces and matter as they are in the middle of the substep. */
  #forces: GasOptions['forces'];
  #matter: GasOptions['matter'];

  constructor(
    private readonly team: KernelTeam,
    private readonly options: GasOptions,
    private readonly bounds: Bounds,
    private readonly fields: GasFields,
    private readonly sources: readonly PreparedSource[],
    private readonly motion: Motion,
    private readonly turbulence: TurbulenceLattice | null,
    private readonly more: ForceFields,
    private readonly clock: Clock,
    private readonly cancelled: () => boolean,
    tileCapacity: number,
  ) {
    this.#forces = options.forces;
    this.#matter = options.matter;
    this.#edges = new EdgeVelocities(team);
    this.#pressure = new PressureSolver(team, bounds.hierarchy, tileCapacity);
    this.#stats = team.allocate(tileCapacity * 40);
    this.#list = team.allocate(LIST_WORDS * 4);
    this.#cutRecords = team.allocate(tileCapacity * RECORD_WORDS * 4);
  }

  /** To be called whenever the bounds changed. */
  boundsChanged(): void {
    this.#energyKnown = false;
    this.#edges.use(this.bounds.edges);
    const level = this.bounds.hierarchy.finest;
    const records = this.team.words(level.records, level.count * RECORD_WORDS);
    const cut = this.team.words(this.#cutRecords, records.length);
    let n = 0;
    for (let r = 0; r < records.length; r += RECORD_WORDS) {
      if (records[r + 4] === 0) continue;
      cut.set(records.subarray(r, r + RECORD_WORDS), n);
      n += RECORD_WORDS;
    }
    this.#cutCount = n / RECORD_WORDS;
    if (this.#cutCount > this.#gatherTiles) {
      this.#gatherTiles = this.#cutCount * 2;
      this.#gather = this.team.allocate(this.#gatherTiles * 2048);
    }
  }

  /** Puts moving solids where they are at the end of [time, time + dt]; books what they swept. */
  moveSolids(time: number, dt: number, ledger: MassLedger): void {
    if (!this.motion.hasMovingSolids) return;
    const { team, bounds, options } = this;
    const moving = this.motion.solids(time, dt);
    const { lost, filled } = bounds.moveSolids(moving);
    this.boundsChanged();
    this.#walls = movingWalls(team, bounds.hierarchy.finest, bounds.geometry, moving, options.voxelSize);
    const cell = options.voxelSize ** 3;
    ledger.solids += (lost - filled) * cell;
  }

  /** Reads the maxima; throws `not-finite` when a value is not. */
  measure(frame: number, substep: number): void {
    const { team, fields: f, options } = this;
    const level = this.bounds.hierarchy.finest;
    const [wx, wy, wz] = this.bounds.wind;
    team.launch(
      'tileStatistics',
      level.count,
      level.context,
      f.density,
      f.temperature,
      f.u,
      f.v,
      f.w,
      options.matter.ambient,
      wx,
      wy,
      wz,
      options.bounds.quietDensity,
      options.bounds.quietHeat,
      this.#stats,
    );
    if (f.fuel !== 0) this.#measureFuel();
    const maxima = team.floats(this.#stats, level.count * 10);
    const sums = team.doubles(this.#stats, level.count * 5);
    const s = { density: 0, heat: 0, speed: 0, mass: 0, energy: 0 };
    const finite = { density: true, temperature: true, vel: true };
    for (let t = 0; t < level.count; t++) {
      const [d, h, v] = [maxima[10 * t] ?? 0, maxima[10 * t + 1] ?? 0, maxima[10 * t + 3] ?? 0];
      if (!Number.isFinite(d)) finite.density = false;
      if (!Number.isFinite(h)) finite.temperature = false;
      if (!Number.isFinite(v)) finite.vel = false;
      s.density = Math.max(s.density, d);
      s.heat = Math.max(s.heat, h);
      s.speed = Math.max(s.speed, v);
      s.mass += sums[5 * t + 2] ?? 0;
      s.energy += sums[5 * t + 3] ?? 0;
    }
    const broken = Object.entries(finite).find(([, ok]) => !ok)?.[0];
    if (broken) {
      throw new RuddleError('not-finite', `The ${broken} stopped being finite at frame ${String(frame)}, substep ${String(substep)}.`, {
        frame,
        substep,
        channel: broken,
      });
    }
    Object.assign(this.statistics, s);
    this.#energyKnown = true;
  }

  /** Fuel is matter too: where it is, tiles stay awake. */
  #measureFuel(): void {
    const { team, fields: f, options } = this;
    const level = this.bounds.hierarchy.finest;
    const size = this.bounds.size;
    const fuel = team.floats(f.fuel, size);
    const status = team.bytes(level.status, size);
    const records = team.words(level.records, level.count * RECORD_WORDS);
    const places = team.words(this.#stats, level.count * 10);
    for (let t = 0; t < level.count; t++) {
      const base = records[t * RECORD_WORDS] ?? 0;
      let where = places[10 * t + 8] ?? 0;
      for (let row = 0; row < 64; row++) {
        const o = base + (row >> 3) * level.sp + (row & 7) * level.sx;
        for (let n = 0; n < 8; n++) {
          if ((fuel[o + n] ?? 0) > options.bounds.quietDensity && status[o + n] === 1)
            where |= (1 << n) | (0x100 << (row & 7)) | (0x10000 << (row >> 3));
        }
      }
      places[10 * t + 8] = where;
    }
  }

  /** Where matter and motion are, from the last measurement, and where sources emit during [time, time + dt]. World voxels. */
  census(time: number, dt: number): Census {
    const { window, hierarchy } = this.bounds;
    const { quietSpeed } = this.options.bounds;
    const level = hierarchy.finest;
    const records = this.team.words(level.records, level.count * RECORD_WORDS);
    const maxima = this.team.floats(this.#stats, level.count * 10);
    const places = this.team.words(this.#stats, level.count * 10);
    const matter: number[] = [];
    const motion: number[] = [];
    for (let t = 0; t < level.count; t++) {
      const r = t * RECORD_WORDS;
      const [x, y, z] = [(records[r + 1] ?? 0) + window.ox, (records[r + 2] ?? 0) + window.oy, (records[r + 3] ?? 0) + window.oz];
      const where = places[10 * t + 8] ?? 0;
      if (where !== 0) {
        const span = (bits: number): [number, number] => [31 - Math.clz32(bits & -bits), 31 - Math.clz32(bits)];
        const [i0, i1] = span(where & 255);
        const [j0, j1] = span((where >> 8) & 255);
        const [k0, k1] = span((where >> 16) & 255);
        matter.push(x + i0, y + j0, z + k0, x + i1, y + j1, z + k1);
      } else if ((maxima[10 * t + 2] ?? 0) > quietSpeed) motion.push(x, y, z, x + 7, y + 7, z + 7);
    }
    for (const s of this.sources) {
      if (!emitsDuring(s, time, dt)) continue;
      const { min, max } = sourceVoxels(s, time, dt, this.options.voxelSize);
      matter.push(...min, max[0] - 1, max[1] - 1, max[2] - 1);
    }
    // A moving solid drives the air around it, with or without matter in it.
    const h = this.options.voxelSize;
    const solids = this.motion
      .solidBoxes(time + dt)
      .flatMap(({ min, max }) => [...min.map((v) => Math.floor(v / h)), ...max.map((v) => Math.ceil(v / h) - 1)]);
    return { matter, motion, solids, travel: Math.ceil((this.statistics.speed * dt) / h) };
  }

  /** Active tiles that hold matter, by the last measurement. */
  get matterTiles(): number {
    const { count } = this.bounds.hierarchy.finest;
    const places = this.team.words(this.#stats, count * 10);
    let tiles = 0;
    for (let t = 0; t < count; t++) if ((places[10 * t + 8] ?? 0) !== 0) tiles++;
    return tiles;
  }

  /** By the last measurement. */
  get roughness(): number {
    const { finest } = this.bounds.hierarchy;
    const { u, v, w } = this.fields;
    return roughness(this.team, finest, [u, v, w], this.bounds.size, this.team.words(this.#stats, finest.count * 10));
  }

  /** Largest acceleration that the present state can feel, m/s^2. */
  acceleration(): number {
    const [matter, forces] = [this.#matter, this.#forces];
    const { density, heat } = this.statistics;
    const lift = matter.liftLaw === 'ideal' ? matter.lift * GRAVITY * (heat / (matter.ambient + heat)) : matter.lift * heat;
    // A turbulent peak is about three times the root mean square.
    return (
      Math.abs(lift) +
      Math.abs(matter.sinking * density) +
      3 * (forces.turbulence?.strength ?? 0) +
      this.more.acceleration(this.#time, density)
    );
  }

  run(time: number, dt: number, ledger: MassLedger, work: Work, seconds: Record<Stage, number>): PressureReport {
    const timed = <T>(stage: Stage, body: () => T): T => {
      const start = this.clock();
      const result = body();
      seconds[stage] += this.clock() - start;
      return result;
    };
    this.#time = time + dt / 2;
    this.#forces = this.motion.forces(time + dt / 2);
    this.#matter = this.motion.matter(time + dt / 2);
    this.bounds.setWind(this.#forces.wind);
    const cell = this.options.voxelSize ** 3;
    // Tiles that woke up bring the wind that stood in them: no scheme's gain.
    const before = this.#energyKnown ? this.statistics.energy : this.#energy();
    const reflects = this.options.matter.velocityAdvection === 'reflection';
    timed('advection', () => {
      this.#advect(dt, ledger, cell, reflects ? dt / 2 : dt);
    });
    const halfway = reflects ? timed('pressure', () => this.#project(dt)) : null;
    if (reflects) {
      timed('advection', () => {
        this.#reflect(dt);
      });
    }
    const advected = this.#energy();
    timed('sources', () => {
      this.emit(time, dt, ledger);
      this.#burn(dt, ledger, cell);
    });
    timed('forces', () => {
      this.#fade(dt, ledger, cell);
      let e0 = this.#energy();
      if (this.#matter.smoothing > 0) {
        const rough = e0;
        this.#smooth(dt);
        e0 = this.#energy();
        work.smoothing += e0 - rough;
      }
      this.#buoyancy(dt);
      const e1 = this.#energy();
      this.#confine(dt);
      const e2 = this.#energy();
      this.#push(time, dt);
      this.more.apply(this.bounds, this.fields, time, dt);
      const e3 = this.#energy();
      work.buoyancy += e1 - e0;
      work.confinement += e2 - e1;
      work.forces += e3 - e2;
    });
    const pushed = this.#energy();
    const report = timed('pressure', () => this.#project(dt));
    work.loss += advected - before + this.#energy() - pushed;
    if (!halfway) return report;
    return {
      converged: report.converged && halfway.converged,
      iterations: report.iterations + halfway.iterations,
      relativeResidual: Math.max(report.relativeResidual, halfway.relativeResidual),
      divergence: Math.max(report.divergence, halfway.divergence),
    };
  }

  /** Applies the sources alone. */
  emit(time: number, dt: number, ledger: MassLedger): void {
    const { team, fields, options, bounds } = this;
    const yard = { team, level: bounds.hierarchy.finest, fields, options, size: bounds.size, drift: this.motion.drift(time + dt / 2) };
    // Contact counts with closed walls too: the floor is one.
    const solids = (at: number): Distance => union([(x, y, z) => bounds.geometry.stillDistance(x, y, z), ...this.motion.movedSolids(at)]);
    const brought = applySources(yard, this.sources, time, dt, solids);
    ledger.sources += brought * options.voxelSize ** 3;
  }

  /**
   * Reflects the velocity about what the projection in the middle of the step left of it (the projection takes energy, the reflection gives it back:
   * Zehnder, Narain, Thomaszewski 2018), and carries it through the second half.
   */
  #reflect(dt: number): void {
    const { team, fields: f, options } = this;
    const level = this.bounds.hierarchy.finest;
    const { size } = this.bounds;
    const reflected = [f.p, f.q, f.r] as const;
    const whole = [f.u, f.v, f.w].map((from, axis) => {
      // With what lies outside of the active tiles: traces reach there.
      const copy = team.floats(reflected[axis] ?? 0, size);
      copy.set(team.floats(from, size));
      return copy;
    });
    const field = { ...f, u: f.p, v: f.q, w: f.r };
    team.launch('subtractGradient', level.count, level.context, ...reflected, f.phi);
    this.#edges.subtractGradient(level, field);
    this.#close(field);
    const c = dt / 2 / options.voxelSize;
    this.#edges.advect(level, field, c);
    carryReflected({ team, level, fields: f, c, list: this.#list }, reflected);
    this.#edges.store(f, size);
    for (const copy of whole) copy.fill(0);
  }

  /** `velocityDt`: of the velocity's own way, half a step before a reflection. */
  #advect(dt: number, ledger: MassLedger, cell: number, velocityDt: number): void {
    const { team, fields: f, options } = this;
    const level = this.bounds.hierarchy.finest;
    const context = { team, level, fields: f, c: dt / options.voxelSize, list: this.#list };
    const scheme = schemes(options);
    const before = this.#mass();
    const left = this.#bookFluxes(dt, ledger, cell);
    const fire = f.fuel !== 0;
    scheme.scalars.scalars(context, fire ? [f.density, f.temperature, f.fuel] : [f.density, f.temperature]);
    advectCarried(context, scheme.scalars);
    const own = { ...context, c: velocityDt / options.voxelSize };
    this.#edges.advect(level, f, own.c);
    scheme.velocity.velocity(own);
    this.#edges.store(f, this.bounds.size);
    team.launch('clearOpenCells', level.count, level.context, f.density, 0);
    team.launch('clearOpenCells', level.count, level.context, f.temperature, options.matter.ambient);
    if (fire) {
      team.launch('clearOpenCells', level.count, level.context, f.fuel, 0);
      this.#extend(f.fuel, 0);
    }
    for (const field of [f.density, ...carriedFields(f).flat()]) this.#extend(field, 0);
    this.#extend(f.temperature, options.matter.ambient);
    if (this.#matter.keepsMass) this.#keepMass(before - left / cell);
    ledger.advection += (this.#mass() - before) * cell + left;
  }

  /**
   * Scales the density to the sum that it must have after a transport: what was there less what flowed out. All of it by one factor: where the scheme's
   * change happened cannot be told, and a factor keeps edges and what is empty as they are.
   */
  #keepMass(wanted: number): void {
    const level = this.bounds.hierarchy.finest;
    const factor = wanted / this.#mass();
    if (factor > 1 - MOST_CORRECTED && factor < 1 + MOST_CORRECTED) {
      for (const field of [this.fields.density, ...carriedFields(this.fields).flat()]) {
        this.team.launch('scaleTiles', level.count, level.context, field, factor);
      }
    }
  }

  /** What the velocity carries out through each open face during the step (upwind). Returns the total. */
  #bookFluxes(dt: number, ledger: MassLedger, cell: number): number {
    const f = this.fields;
    const size = this.bounds.size;
    const density = this.team.floats(f.density, size);
    const velocity = [f.u, f.v, f.w].map((p) => this.team.floats(p, size));
    const { fluxes } = this.bounds.edges;
    const scale = (dt / this.options.voxelSize) * cell;
    let total = 0;
    for (let n = 0; n < fluxes.length; n += 3) {
      const code = fluxes[n + 2] ?? 0;
      const d = density[fluxes[n + 1] ?? 0] ?? 0;
      if (d === 0) continue;
      const v = velocity[code & 3]?.[fluxes[n] ?? 0] ?? 0;
      const out = Math.max(0, code & 4 ? -v : v) * d * scale;
      if (out === 0) continue;
      total += out;
      const wall = WALLS[(code >> 3) - 1];
      if (wall) ledger.walls[wall] += out;
      else ledger.crop += out;
    }
    return total;
  }

  #fade(dt: number, ledger: MassLedger, cell: number): void {
    const { team, fields: f, options } = this;
    const level = this.bounds.hierarchy.finest;
    const { decayTime, decayRate, coolingTime, ambient, heatSpread, sharpening } = this.#matter;
    const h = options.voxelSize;
    const carries = f.red !== 0 || f.across !== 0;
    if (carries) team.launch('copyTiles', level.count, level.context, f.density, f.b);
    if (heatSpread > 0) spreadCells(team, level, f.temperature, f.a, heatSpread, dt, h);
    if (sharpening > 0) sharpenCells(team, level, f.density, f.a, sharpening, dt);
    const keep = decayTime === null ? 1 : Math.exp(-dt / decayTime);
    team.launch('thin', level.count, level.context, f.density, keep, decayRate * dt, options.bounds.cutOff, this.#stats);
    if (carries) followDensity(team, level, f, f.b);
    const sums = team.doubles(this.#stats, level.count * 2);
    for (let t = 0; t < level.count; t++) {
      ledger.decay += (sums[2 * t] ?? 0) * cell;
      ledger.cutOff += (sums[2 * t + 1] ?? 0) * cell;
    }
    if (coolingTime !== null) {
      team.launch('relax', level.count, level.context, f.temperature, ambient, Math.exp(-dt / coolingTime));
    }
  }

  #burn(dt: number, ledger: MassLedger, cell: number): void {
    const { team, fields: f } = this;
    const { fire, ambient } = this.#matter;
    if (!fire) return;
    const level = this.bounds.hierarchy.finest;
    const keep = Math.exp(-dt / fire.burnTime);
    team.launch(
      'burn',
      level.count,
      level.context,
      f.fuel,
      f.temperature,
      f.density,
      f.flame,
      ambient,
      fire.ignition,
      keep,
      fire.heat,
      fire.soot,
      fire.loss,
      dt,
      this.#stats,
    );
    const made = team.doubles(this.#stats, level.count);
    for (let t = 0; t < level.count; t++) ledger.burning += (made[t] ?? 0) * cell;
  }

  #smooth(dt: number): void {
    const { smoothing } = this.#matter;
    const level = this.bounds.hierarchy.finest;
    const { u, v, w, a } = this.fields;
    for (const field of [u, v, w]) smoothFaces(this.team, level, field, a, smoothing, dt, this.options.voxelSize);
  }

  #buoyancy(dt: number): void {
    const { team, fields: f } = this;
    const level = this.bounds.hierarchy.finest;
    const { lift, liftLaw, sinking, ambient } = this.#matter;
    if (lift === 0 && sinking === 0) return;
    const ideal = liftLaw === 'ideal';
    team.launch(
      'buoyancy',
      level.count,
      level.context,
      f.v,
      f.density,
      f.temperature,
      ambient,
      ideal ? lift * GRAVITY : lift,
      ideal ? 1 : 0,
      sinking,
      dt,
    );
  }

  #confine(dt: number): void {
    const { team, fields: f, options } = this;
    const level = this.bounds.hierarchy.finest;
    const { confinement, confinementLength } = this.#forces;
    if (confinement === 0) return;
    team.launch('vorticity', level.count, level.context, f.u, f.v, f.w, f.a, f.b, f.c, f.z);
    const gain = (confinement * confinementLength * dt) / options.voxelSize;
    team.launch('confinement', level.count, level.context, f.a, f.b, f.c, f.z, gain, f.r, f.p, f.q);
    [
      [f.u, f.r, 1],
      [f.v, f.p, level.sx],
      [f.w, f.q, level.sp],
    ].forEach(([field, cells, stride]) => {
      team.launch('addCellsToFaces', level.count, level.context, field ?? 0, stride ?? 1, cells ?? 0);
    });
  }

  #push(time: number, dt: number): void {
    const { team, fields: f, options, bounds } = this;
    const level = bounds.hierarchy.finest;
    const { windTime, turbulence } = this.#forces;
    const { wind } = bounds;
    const velocity = [f.u, f.v, f.w];
    if (windTime !== null) {
      const keep = Math.exp(-dt / windTime);
      velocity.forEach((field, axis) => {
        team.launch('relax', level.count, level.context, field, wind[axis] ?? 0, keep);
      });
    }
    if (turbulence && this.turbulence) {
      const { a, b, n } = this.turbulence;
      const w = bounds.window;
      const t = noiseArguments(turbulence, [w.ox, w.oy, w.oz], options.voxelSize, this.motion.drift(time + dt / 2), time + dt / 2, dt);
      velocity.forEach((field, axis) => {
        team.launch('addNoise', level.count, level.context, field, axis, a, b, n, t.gainA, t.gainB, t.scale, ...t.offset);
      });
    }
  }

  #project(dt: number): PressureReport {
    const { team, fields: f, options, bounds } = this;
    const level = bounds.hierarchy.finest;
    const { wind } = bounds;
    [
      [f.u, 1],
      [f.v, level.sx],
      [f.w, level.sp],
    ].forEach(([field, stride], axis) => {
      team.launch('clearOpenFaces', level.count, level.context, field ?? 0, stride ?? 1, wind[axis] ?? 0);
    });
    this.#close();
    team.launch('divergence', level.count, level.context, f.u, f.v, f.w, f.a, this.#stats);
    const fire = this.#matter.fire;
    if (fire && fire.expansion > 0) team.launch('expand', level.count, level.context, f.a, f.flame, fire.expansion * options.voxelSize);
    const { cells, flux } = this.#walls;
    if (cells.length > 0) {
      const b = team.floats(f.a, bounds.size);
      for (let n = 0; n < cells.length; n++) b[cells[n] ?? 0] = (b[cells[n] ?? 0] ?? 0) + (flux[n] ?? 0);
    }
    this.trapped = this.#trapped();
    const report = this.#pressure.solve(
      { x: f.phi, b: f.a, r: f.r, z: f.z, p: f.p, q: f.q, best: f.c },
      {
        tolerance: options.stepping.tolerance,
        iterations: options.stepping.iterations,
        divergence: DIVERGENCE,
        dtOverH: dt / options.voxelSize,
      },
      bounds.pockets,
      this.cancelled,
    );
    team.launch('subtractGradient', level.count, level.context, f.u, f.v, f.w, f.phi);
    this.#edges.subtractGradient(level, f);
    this.#close();
    return report;
  }

  /** What the right-hand side of the pressure asks of sealed pockets in all: nobody can give it. m^3/s. */
  #trapped(): number {
    const { pockets } = this.bounds;
    if (pockets.length === 0) return 0;
    const b = this.team.floats(this.fields.a, this.bounds.size);
    const area = this.options.voxelSize ** 2;
    return Math.max(
      ...pockets.map(({ cells }) => {
        let sum = 0;
        for (const at of cells) sum += b[at] ?? 0;
        return Math.abs(sum) * area;
      }),
    );
  }

  /** Rescales the pressure to be the first guess of a step of another length. */
  rescalePressure(factor: number): void {
    const level = this.bounds.hierarchy.finest;
    if (factor !== 1) this.team.launch('scaleTiles', level.count, level.context, this.fields.phi, factor);
  }

  #close(f: Pick<GasFields, 'u' | 'v' | 'w'> = this.fields): void {
    const level = this.bounds.hierarchy.finest;
    [
      [f.u, 1, 0],
      [f.v, level.sx, 2],
      [f.w, level.sp, 4],
    ].forEach(([field, stride, face]) => {
      this.team.launch('closeFaces', this.#cutCount, level.context, this.#cutRecords, field ?? 0, stride ?? 1, face ?? 0, this.#gather);
      this.team.launch('scatterTiles', this.#cutCount, level.context, this.#cutRecords, this.#gather, field ?? 0);
    });
    [f.u, f.v, f.w].forEach((pointer, axis) => {
      const { index, velocity } = this.#walls.closed[axis as 0 | 1 | 2];
      const field = this.team.floats(pointer, this.bounds.size);
      for (let n = 0; n < index.length; n++) field[index[n] ?? 0] = velocity[n] ?? 0;
    });
  }

  #extend(field: number, ambient: number): void {
    const level = this.bounds.hierarchy.finest;
    this.team.launch('extendCells', this.#cutCount, level.context, this.#cutRecords, field, ambient, this.#gather);
    this.team.launch('scatterTiles', this.#cutCount, level.context, this.#cutRecords, this.#gather, field);
  }

  #sums(): { mass: number; energy: number } {
    const { team, fields: f } = this;
    const level = this.bounds.hierarchy.finest;
    team.launch('tileSums', level.count, level.context, f.density, f.u, f.v, f.w, this.#stats);
    const sums = team.doubles(this.#stats, level.count * 2);
    let mass = 0;
    let energy = 0;
    for (let t = 0; t < level.count; t++) {
      mass += sums[2 * t] ?? 0;
      energy += sums[2 * t + 1] ?? 0;
    }
    return { mass, energy };
  }

  #mass(): number {
    return this.#sums().mass;
  }

  #energy(): number {
    return this.#sums().energy;
  }
}

export const joules = (halfSquares: number, h: number): number => AIR * halfSquares * h ** 3;
