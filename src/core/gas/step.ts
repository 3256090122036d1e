import {
  EdgeVelocities,
  actsDuring,
  type Census,
  type Bounds,
  CutFaces,
  type ForceFields,
  type Motion,
  movingWalls,
  sharpenCells,
  smoothFaces,
  spreadCells,
  type Swept,
  takeUpWind,
  type TurbulenceLattice,
  noiseArguments,
} from '#core/flow';
import { RuddleError } from '#core/errors';
import { GRAVITY } from '#core/units';
import { type Distance, union } from '#core/geometry';
import { type Clock, type KernelTeam, type MovingSolid, type PressureReport, PressureSolver, RECORD_WORDS } from '#core/grid';
import { burnFuel, markFuel } from './burning';
import { followDensity } from './carried';
import { EmissionNoise } from './emission-noise';
import { type GasFields } from './fields';
import { AIR, type GasOptions, type GasSource, type GasMatter } from './options';
import type { Amounts, Ledgers, Stage } from './report';
import { roughness } from './spectrum';
import { PLACES_WORD, STATISTICS_WORDS } from './statistics';
import type { PreparedSource } from './prepared';
import { applySources, sourceVoxels } from './sources';
import { Transport } from './transport';

/** Maxima and sums over the active tiles. */
export interface Statistics {
  density: number;
  heat: number;
  speed: number;
  /** Density x voxels, and kelvin above ambient x voxels. */
  mass: number;
  warmth: number;
  /** Half the sum of squared face velocities. */
  energy: number;
}

/** Over the active tiles, x voxels. */
export interface Sums extends Amounts {
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

/** Largest |divergence| x dt left anywhere: a voxel's content changed by 0.5 % at most. */
const DIVERGENCE = 5e-3;

/** Doubles a tile of the statistics. */
const SUMS = STATISTICS_WORDS / 2;

/** What a substep works with, for the whole run. */
interface StepParts {
  readonly team: KernelTeam;
  readonly options: GasOptions;
  readonly bounds: Bounds<GasFields>;
  readonly fields: GasFields;
  readonly sources: readonly PreparedSource[];
  readonly motion: Motion<GasSource, GasMatter>;
  readonly turbulence: TurbulenceLattice | null;
  readonly forceFields: ForceFields;
  readonly clock: Clock;
  readonly cancelled: () => boolean;
  /** Most active tiles. */
  readonly tileCapacity: number;
  /** Draws the velocities to something, before the projection of a substep that ends at a time; null: nothing does. */
  readonly draw: ((time: number, dt: number) => void) | null;
  /** What gives beside the sources. */
  readonly feed: {
    readonly touches: (time: number, dt: number) => readonly number[];
    readonly give: (time: number, dt: number) => Amounts;
  } | null;
}

/** One substep of the gas: advection, sources, fading, forces, projection (operator splitting, Stam 1999). */
export class GasStep {
  readonly statistics: Statistics = { density: 0, heat: 0, speed: 0, mass: 0, warmth: 0, energy: 0 };
  readonly #edges: EdgeVelocities;
  readonly #pressure: PressureSolver;
  readonly #stats: number;
  readonly #faces: CutFaces;
  readonly #transport: Transport;
  readonly #noise: EmissionNoise;
  /** Of the present velocities; null: they have changed since it was summed (a pass over all tiles). */
  #energyNow: number | null = null;
  /** Middle of the last substep; null: there was none. */
  #time: number | null = null;
  /** Of the last substep, see FrameReport. */
  trapped = 0;
  /** Forces and matter as they are in the middle of the substep. */
  #forces: GasOptions['forces'];
  #matter: GasOptions['matter'];

  private readonly team: KernelTeam;
  private readonly options: GasOptions;
  private readonly bounds: Bounds<GasFields>;
  private readonly fields: GasFields;
  private readonly sources: readonly PreparedSource[];
  private readonly motion: Motion<GasSource, GasMatter>;
  private readonly turbulence: TurbulenceLattice | null;
  private readonly forceFields: ForceFields;
  private readonly clock: Clock;
  private readonly cancelled: () => boolean;
  readonly #draw: StepParts['draw'];
  readonly #feed: StepParts['feed'];

  constructor(parts: StepParts) {
    const { team, options, bounds, fields, tileCapacity } = parts;
    this.team = team;
    this.options = options;
    this.bounds = bounds;
    this.fields = fields;
    this.sources = parts.sources;
    this.motion = parts.motion;
    this.turbulence = parts.turbulence;
    this.forceFields = parts.forceFields;
    this.clock = parts.clock;
    this.cancelled = parts.cancelled;
    this.#draw = parts.draw;
    this.#feed = parts.feed;
    this.#forces = options.forces;
    this.#matter = options.matter;
    this.#edges = new EdgeVelocities(team);
    this.#noise = new EmissionNoise(team);
    this.#pressure = new PressureSolver(team, bounds.hierarchy, tileCapacity);
    this.#stats = team.allocate(tileCapacity * STATISTICS_WORDS * 4);
    this.#faces = new CutFaces(team, bounds, tileCapacity);
    this.#transport = new Transport(team, options, bounds, fields, this.#faces, this.#edges, () => this.#sums(), tileCapacity);
  }

  /** To be called whenever the bounds changed, with the solids that moved then. */
  boundsChanged(moving: readonly MovingSolid[]): void {
    const { team, bounds, options } = this;
    this.#energyNow = null;
    this.#edges.use(bounds.edges);
    this.#faces.boundsChanged();
    this.#transport.boundsChanged();
    if (moving.length > 0) this.#faces.walls = movingWalls(team, bounds.hierarchy.finest, bounds.geometry, moving, options.voxelSize);
  }

  /** Records what moving solids swept. */
  recordSwept({ lost: [mass = 0, heat = 0], filled: [massFilled = 0, heatFilled = 0] }: Swept, ledger: Ledgers): void {
    const cell = this.options.voxelSize ** 3;
    ledger.mass.solids += (mass - massFilled) * cell;
    ledger.heat.solids += (heat - heatFilled) * cell;
    this.#transport.swept = { mass: massFilled - mass, heat: heatFilled - heat };
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
    if (f.fuel !== 0) markFuel(team, level, f.fuel, this.bounds.size, team.words(this.#stats, level.count * STATISTICS_WORDS), options);
    const maxima = team.floats(this.#stats, level.count * STATISTICS_WORDS);
    const sums = team.doubles(this.#stats, level.count * SUMS);
    const s = { density: 0, heat: 0, speed: 0, mass: 0, warmth: 0, energy: 0 };
    const finite = { density: true, temperature: true, vel: true };
    for (let t = 0; t < level.count; t++) {
      const [d, h, v] = [maxima[STATISTICS_WORDS * t] ?? 0, maxima[STATISTICS_WORDS * t + 1] ?? 0, maxima[STATISTICS_WORDS * t + 3] ?? 0];
      if (!Number.isFinite(d)) finite.density = false;
      if (!Number.isFinite(h)) finite.temperature = false;
      if (!Number.isFinite(v)) finite.vel = false;
      s.density = Math.max(s.density, d);
      s.heat = Math.max(s.heat, h);
      s.speed = Math.max(s.speed, v);
      s.mass += sums[SUMS * t + 2] ?? 0;
      s.energy += sums[SUMS * t + 3] ?? 0;
      s.warmth += sums[SUMS * t + 5] ?? 0;
    }
    const broken = Object.entries(finite).find(([, ok]) => !ok)?.[0];
    if (broken) {
      const where = `at frame ${String(frame)}, substep ${String(substep)}`;
      const remedy = 'Try more substeps (a lower CFL number), or look for an extreme source, force or expression.';
      const what = broken === 'vel' ? 'velocity' : broken;
      throw new RuddleError('not-finite', `The ${what} became unstable (NaN or infinite) ${where}. ${remedy}`, {
        frame,
        substep,
        channel: broken,
      });
    }
    Object.assign(this.statistics, s);
    this.#energyNow = s.energy;
  }

  /** Where matter and motion are, from the last measurement, and where sources emit during [time, time + dt]. World voxels. */
  census(time: number, dt: number): Census {
    const { window, hierarchy } = this.bounds;
    const { quietSpeed } = this.options.bounds;
    const level = hierarchy.finest;
    const records = this.team.pointers(level.records, level.count * RECORD_WORDS);
    const maxima = this.team.floats(this.#stats, level.count * STATISTICS_WORDS);
    const places = this.team.words(this.#stats, level.count * STATISTICS_WORDS);
    const matter: number[] = [];
    const motion: number[] = [];
    for (let t = 0; t < level.count; t++) {
      const r = t * RECORD_WORDS;
      const [x, y, z] = [(records[r + 1] ?? 0) + window.ox, (records[r + 2] ?? 0) + window.oy, (records[r + 3] ?? 0) + window.oz];
      const where = places[STATISTICS_WORDS * t + PLACES_WORD] ?? 0;
      if (where !== 0) {
        const span = (bits: number): [number, number] => [31 - Math.clz32(bits & -bits), 31 - Math.clz32(bits)];
        const [i0, i1] = span(where & 255);
        const [j0, j1] = span((where >> 8) & 255);
        const [k0, k1] = span((where >> 16) & 255);
        matter.push(x + i0, y + j0, z + k0, x + i1, y + j1, z + k1);
      } else if ((maxima[STATISTICS_WORDS * t + 2] ?? 0) > quietSpeed) motion.push(x, y, z, x + 7, y + 7, z + 7);
    }
    for (const s of this.sources) {
      if (!actsDuring(s, time, dt)) continue;
      const { min, max } = sourceVoxels(s, time, dt, this.options.voxelSize);
      matter.push(...min, max[0] - 1, max[1] - 1, max[2] - 1);
    }
    for (const v of this.#feed?.touches(time, dt) ?? []) matter.push(v);
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
    const places = this.team.words(this.#stats, count * STATISTICS_WORDS);
    let tiles = 0;
    for (let t = 0; t < count; t++) if ((places[STATISTICS_WORDS * t + PLACES_WORD] ?? 0) !== 0) tiles++;
    return tiles;
  }

  /** By the last measurement. */
  get roughness(): number {
    const { finest } = this.bounds.hierarchy;
    const { u, v, w } = this.fields;
    return roughness(this.team, finest, [u, v, w], this.bounds.size, this.team.words(this.#stats, finest.count * STATISTICS_WORDS));
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
      this.forceFields.acceleration(this.#time ?? 0, density)
    );
  }

  get time(): number | null {
    return this.#time;
  }

  /** As after a substep with that middle. */
  restore(time: number | null): void {
    if (time === null) return;
    this.#time = time;
    this.#forces = this.motion.forces(time);
    this.#matter = this.motion.matter(time);
    this.bounds.wind = this.#forces.wind;
  }

  run(time: number, dt: number, ledger: Ledgers, work: Work, seconds: Record<Stage, number>): PressureReport {
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
    const before = this.#energy();
    const reflects = this.options.matter.velocityAdvection === 'reflection';
    timed('advection', () => {
      this.#transport.advect(dt, reflects ? dt / 2 : dt, ledger, this.#matter);
    });
    const halfway = reflects ? timed('pressure', () => this.#project(dt)) : null;
    if (reflects) {
      timed('advection', () => {
        this.#transport.reflect(dt);
        this.#energyNow = null;
      });
    }
    const advected = this.#energy();
    timed('sources', () => {
      this.emit(time, dt, ledger);
      this.#energyNow = null;
      const { fire, ambient } = this.#matter;
      if (fire) {
        const { soot, heat, lost } = burnFuel(this.team, this.bounds.hierarchy.finest, this.fields, fire, ambient, dt, this.#stats);
        ledger.mass.burning += soot * cell;
        ledger.heat.burning += heat * cell;
        ledger.heat.decay += lost * cell;
      }
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
      this.forceFields.apply(this.bounds, this.fields, time, dt);
      if (this.options.forces.fields.length > 0) this.#energyNow = null;
      this.#draw?.(time + dt, dt);
      if (this.#draw) this.#energyNow = null;
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
  emit(time: number, dt: number, ledger: Ledgers): void {
    const { team, fields, options, bounds } = this;
    const emitting = {
      team,
      level: bounds.hierarchy.finest,
      limit: bounds.limit,
      fields,
      options,
      size: bounds.size,
      noise: this.#noise,
      drift: this.motion.drift(time + dt / 2),
    };
    // Contact counts with closed walls too: the floor is one.
    const solids = (at: number): Distance => union([(x, y, z) => bounds.geometry.stillDistance(x, y, z), ...this.motion.movedSolids(at)]);
    for (const brought of [applySources(emitting, this.sources, time, dt, solids), this.#feed?.give(time, dt)]) {
      ledger.mass.sources += (brought?.mass ?? 0) * options.voxelSize ** 3;
      ledger.heat.sources += (brought?.heat ?? 0) * options.voxelSize ** 3;
    }
  }

  #fade(dt: number, ledger: Ledgers, cell: number): void {
    const { team, fields: f, options } = this;
    const level = this.bounds.hierarchy.finest;
    const { decayTime, decayRate, coolingTime, ambient, heatSpread, sharpening } = this.#matter;
    const h = options.voxelSize;
    const carries = f.red !== 0 || f.across !== 0;
    if (carries) team.launch('copyTiles', level.count, level.context, f.density, f.b);
    const warm = heatSpread > 0 || coolingTime !== null ? this.#sums().heat : 0;
    if (heatSpread > 0) spreadCells(team, level, f.temperature, f.a, heatSpread, dt, h);
    if (sharpening > 0) sharpenCells(team, level, f.density, f.a, sharpening, dt);
    const keep = decayTime === null ? 1 : Math.exp(-dt / decayTime);
    team.launch('thin', level.count, level.context, f.density, keep, decayRate * dt, options.bounds.cutOff, this.#stats);
    if (carries) followDensity(team, level, f, f.b);
    const sums = team.doubles(this.#stats, level.count * 2);
    for (let t = 0; t < level.count; t++) {
      ledger.mass.decay += (sums[2 * t] ?? 0) * cell;
      ledger.mass.cutOff += (sums[2 * t + 1] ?? 0) * cell;
    }
    if (coolingTime !== null) {
      team.launch('relax', level.count, level.context, f.temperature, ambient, Math.exp(-dt / coolingTime));
    }
    if (heatSpread > 0 || coolingTime !== null) ledger.heat.decay += (warm - this.#sums().heat) * cell;
  }

  #smooth(dt: number): void {
    const { smoothing } = this.#matter;
    const level = this.bounds.hierarchy.finest;
    const { u, v, w, a } = this.fields;
    this.#energyNow = null;
    for (const field of [u, v, w]) smoothFaces(this.team, level, field, a, smoothing, dt, this.options.voxelSize);
  }

  #buoyancy(dt: number): void {
    const { team, fields: f } = this;
    const level = this.bounds.hierarchy.finest;
    const { lift, liftLaw, sinking, ambient } = this.#matter;
    if (lift === 0 && sinking === 0) return;
    this.#energyNow = null;
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
    this.#energyNow = null;
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
    if (windTime !== null || turbulence) this.#energyNow = null;
    if (windTime !== null) takeUpWind(team, level, f, wind, Math.exp(-dt / windTime));
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
    this.#faces.close(f);
    team.launch('divergence', level.count, level.context, f.u, f.v, f.w, f.a, this.#stats);
    const fire = this.#matter.fire;
    if (fire && fire.expansion > 0) team.launch('expand', level.count, level.context, f.a, f.flame, fire.expansion * options.voxelSize);
    const { cells, flux } = this.#faces.walls;
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
    this.#faces.close(f);
    this.#energyNow = null;
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

  #sums(): Sums {
    const { team, fields: f } = this;
    const level = this.bounds.hierarchy.finest;
    team.launch('tileSums', level.count, level.context, f.density, f.temperature, this.#matter.ambient, f.u, f.v, f.w, this.#stats);
    const sums = team.doubles(this.#stats, level.count * 3);
    const all = { mass: 0, heat: 0, energy: 0 };
    for (let n = 0; n < sums.length; n += 3) {
      all.mass += sums[n] ?? 0;
      all.heat += sums[n + 1] ?? 0;
      all.energy += sums[n + 2] ?? 0;
    }
    this.#energyNow = all.energy;
    return all;
  }

  #energy(): number {
    return this.#energyNow ?? this.#sums().energy;
  }
}

export const joules = (halfSquares: number, h: number): number => AIR * halfSquares * h ** 3;
