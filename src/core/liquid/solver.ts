import {
  Calibration,
  type FrameSpan,
  Motion,
  type SolverSeconds,
  type SubstepsTaken,
  actingOf,
  actsDuring,
  checkFits,
  frameSpans,
  isStill,
  namingFrame,
  takeSubsteps,
} from '#core/flow';
import { RuddleError, isRuddleError } from '#core/errors';
import { GRAVITY, formatQuantity } from '#core/units';
import type { Distance, FormMaker } from '#core/geometry';
import { type Clock, type KernelTeam, type TileGrid, type Window, entries, hierarchyBytes } from '#core/grid';
import type { Vec3 } from '#core/math';
import { coarseOf } from './band';
import { type LiquidCloud, cloudOf } from './cloud';
import { type Account, type Born, Emitters } from './emission';
import { BYTES_AN_ENTRY, LiquidGrid, outerWindow } from './grid';
import type { LiquidMatter, LiquidOptions, LiquidSource } from './options';
import { Particles, bytesEachParticle } from './particles';
import { type LiquidReport, type ParticleLie, STAGES, type SourceTold, type Stage, type VolumeLedger } from './report';
import { type Given, type Seeding, drainLiquid, giveLiquid, insideOf, sourceSpeed } from './seeds';
import { Sorter } from './sorter';
import { type LiquidSnapshot, readSnapshot, writeSnapshot } from './snapshot';
import { LiquidStep, type Measured, type Placed, growOf } from './step';
import { tensionStep } from './tension';
import { type LiquidVolume, collectVolumes } from './volumes';

/** Bumped whenever the same settings would give another result. Part of every run key. */
export const LIQUID_VERSION = 'liquid-4';

export interface LiquidFrame {
  readonly report: LiquidReport;
  readonly cloud: () => LiquidCloud;
  /** Of those that were asked for; to be called before the next frame is. */
  readonly volumes: () => readonly TileGrid[];
  /** False for pre-roll. */
  readonly inRange: boolean;
  /** The run's state after this frame: what a run can begin with instead. To be asked for before the next frame is. */
  readonly state: () => Uint8Array<ArrayBuffer>;
}

export interface LiquidEnvironment {
  readonly team: KernelTeam;
  readonly clock: Clock;
  /** Polled at every pressure iteration and substep. */
  readonly cancelled: () => boolean;
  /** Volumes that frames give beside their particles; none unless asked for. */
  readonly volumes?: readonly LiquidVolume[];
  /** Makes the forms of imported geometry; without it there may be none in the options. */
  readonly forms?: FormMaker;
  /** Called within a frame: which, and how much of it is done. */
  readonly progress?: (frame: number, part: number) => void;
  /** State after a frame of a run of the same options: the frames after it are computed, to the bit as they would have been. */
  readonly from?: Uint8Array | null;
}

/** Of what arrays have room for, what is used, on average. */
const SPARE = 1.15;

const bytesOf = (w: Window, size: number): number => size * BYTES_AN_ENTRY + hierarchyBytes(w, size);

/** Bytes that a run takes with a window and so many particles, with the room that arrays have to spare. */
export const bytesOfLiquid = (w: Window, particles: number, affine: boolean, tiles: number): number =>
  bytesOf(w, entries(w.nx, w.ny, w.nz)) + SPARE * particles * bytesEachParticle(affine) + SPARE * tiles * Sorter.bytesEach;

/** Arrays grow ahead of what is in them. */
const ROOM_TO_SPARE = 1.1;
/** Part of the limit box from which it is full before anything was stepped. */
const ALL = 0.999;

/** The part of the memory that the window may take; the rest is for particles. */
const WINDOW_SHARE = 0.5;

/** Bytes that a run takes at least: the limit box whole where the bounds are fixed, and as much again for particles. */
export const leastBytes = (options: LiquidOptions): number => {
  const w = outerWindow(options);
  const size = entries(w.nx, w.ny, w.nz);
  return options.bounds.mode === 'adaptive' ? 0 : bytesOf(w, size) / WINDOW_SHARE;
};

/** Entries of the window to set aside: all of the limit box, or as many as its share of the memory holds. */
function capacityFor(options: LiquidOptions, available: number): number {
  const w = outerWindow(options);
  const full = entries(w.nx, w.ny, w.nz);
  const share = available * WINDOW_SHARE;
  if (bytesOf(w, full) <= share) return full;
  return Math.min(full, Math.floor(share / (BYTES_AN_ENTRY * 1.3)));
}

/**
 * Computes a liquid run frame by frame. Refuses (`arena-too-small`) before the first frame bounds that cannot fit; throws `arena-too-small`, `not-finite` or
 * `cancelled` in the middle of a run: frames yielded before are whole.
 */
export function* solveLiquid(options: LiquidOptions, environment: LiquidEnvironment): Generator<LiquidFrame> {
  checkFits(leastBytes(options), environment.team.available());
  const from = environment.from ? readSnapshot(environment.from, LIQUID_VERSION, options) : null;
  const run = new LiquidRun(options, environment, from);
  for (const span of frameSpans(options, from ? from.header.frame : null)) yield run.frame(span);
}

interface Totals {
  cfl: number;
  iterations: number;
  residual: number;
  divergence: number;
  converged: boolean;
  viscosityConverged: boolean;
  met: number;
  inside: number;
  /** Voxels of volume x voxels against gravity. */
  correction: number;
  /** Voxels of volume x (m/s)^2. */
  paid: number;
  lie: ParticleLie | null;
}

class LiquidRun {
  readonly #particles: Particles;
  readonly #grid: LiquidGrid;
  readonly #sorter: Sorter;
  readonly #motion: Motion<LiquidSource, LiquidMatter>;
  readonly #step: LiquidStep;
  readonly #calibration: Calibration;
  readonly #filled = new Set<number>();
  readonly #emitters = new Emitters([]);
  /** What sources gave for the coming substep. */
  #born: Born[] = [];
  /** Whether the liquid has no surface; null: nothing was stepped yet. */
  #closed: boolean | null = null;
  #lastStep = 0;
  #lastKick = 0;
  #measured: Measured = { volume: 0, squares: 0, heights: 0, fastest: 0, broken: false };
  #heightsBefore = 0;
  #farthest = 0;
  #salt = 1;
  #surface = 0;
  #liquidCells = 0;
  /** Voxels that should be there by what came in and went out. */
  #expected = 0;
  /** When moving solids were last put in their places; null: not yet. */
  #placedAt: number | null = null;
  #placed: Placed['solids'] = [];

  constructor(
    private readonly options: LiquidOptions,
    private readonly environment: LiquidEnvironment,
    from: LiquidSnapshot | null,
  ) {
    const { team, clock, cancelled } = environment;
    this.#motion = new Motion(options, environment.forms ?? noForms);
    this.#calibration = new Calibration(team, clock);
    const capacity = capacityFor(options, team.available());
    this.#grid = new LiquidGrid(team, options, this.#motion.stillSolids(), capacity);
    this.#particles = new Particles(team, options.matter.transfer === 'apic');
    this.#sorter = new Sorter(team);
    this.#step = new LiquidStep(team, options, this.#grid, this.#particles, this.#sorter, this.#motion, clock, cancelled, capacity);
    if (from) this.#restore(from);
  }

  #restore({ header, restore }: LiquidSnapshot): void {
    restore(this.environment.team, this.#grid, this.#particles);
    for (const n of header.filled) this.#filled.add(n);
    header.accounts.forEach((account, n) => {
      if (account) this.#emitters.accounts[n] = { ...account };
    });
    this.#closed = header.closed;
    this.#lastStep = header.lastStep;
    this.#lastKick = header.lastKick;
    this.#measured = header.measured;
    this.#heightsBefore = header.heightsBefore;
    this.#farthest = header.farthest;
    this.#salt = header.salt;
    this.#surface = header.surface;
    this.#liquidCells = header.liquidCells;
    this.#expected = header.expected;
    this.#step.restore(header.measured.fastest, header.debt);
  }

  #state(frame: number): Uint8Array<ArrayBuffer> {
    const told = {
      version: LIQUID_VERSION,
      frame,
      lastStep: this.#lastStep,
      lastKick: this.#lastKick,
      farthest: this.#farthest,
      salt: this.#salt,
      filled: [...this.#filled],
      accounts: this.options.sources.map((_s, n): Account | null => this.#emitters.accounts[n] ?? null),
      closed: this.#closed,
      debt: this.#step.debt,
      expected: this.#expected,
      surface: this.#surface,
      liquidCells: this.#liquidCells,
      measured: this.#measured,
      heightsBefore: this.#heightsBefore,
    };
    return writeSnapshot(told, this.environment.team, this.options, this.#grid, this.#particles);
  }

  #seeding(time: SolverSeconds, dt: number): Seeding {
    const { options } = this;
    const moved = this.#motion.movedSolids(time);
    const { geometry } = this.#grid;
    const pulled = (seconds: number): Vec3 => options.forces.gravity.map((g) => g * seconds) as unknown as Vec3;
    return {
      team: this.environment.team,
      options,
      particles: this.#particles,
      motion: this.#motion,
      grid: this.#grid,
      sorter: this.#sorter,
      open: (x, y, z) => {
        let d = geometry.stillDistance(x, y, z);
        for (const m of moved) d = Math.min(d, m(x, y, z));
        return d;
      },
      travelled: this.#farthest,
      early: pulled(this.#lastStep / 2),
      pull: pulled((this.#lastStep + dt) / 2),
    };
  }

  /** Whether the liquid fills all that there is: then nothing more goes in. */
  get #full(): boolean {
    if (this.#closed !== null) return this.#closed;
    const { bounds, voxelSize } = this.options;
    const { min, max } = bounds.limit;
    const room = ([0, 1, 2] as const).reduce<number>((v, a) => (v * (max[a] - min[a])) / voxelSize, 1);
    return this.#expected > ALL * room && Object.values(bounds.walls).every((w) => w === 'closed');
  }

  /** What sources do during [time, time + dt]. */
  #sources(time: SolverSeconds, dt: number, ledger: VolumeLedger): void {
    const { options } = this;
    const seeding = this.#seeding(time, dt);
    this.#born = [];
    // Bodies that come in the same moment are one: what several of them cover is given once.
    let given: Distance | null = null;
    options.sources.forEach((source, n) => {
      const acting = actingOf(source, options);
      const volumeOf = ({ volume }: Given): number => volume * options.voxelSize ** 3;
      if (source.act === 'fills') {
        // A body is there from its first frame on; it does not end.
        if (this.#filled.has(n) || !actsDuring({ ...acting, to: Infinity }, time, dt)) return;
        this.#filled.add(n);
        const body = giveLiquid(seeding, n, time, dt, this.#salt++, given);
        ledger.filled += volumeOf(body);
        this.#expected += body.volume;
        const [own, others] = [insideOf(seeding, n, time), given];
        given = others ? (x, y, z) => Math.min(own(x, y, z), others(x, y, z)) : own;
      } else if (dt > 0 && actsDuring(acting, time, dt)) {
        const flow =
          source.act === 'drains'
            ? drainLiquid(seeding, n, time)
            : source.act === 'keeps'
              ? giveLiquid(seeding, n, time, dt, this.#salt++)
              : this.#emit(seeding, n, time, dt);
        if (source.act === 'drains') ledger.drained += volumeOf(flow);
        else ledger.emitted += volumeOf(flow);
        this.#expected += source.act === 'drains' ? -flow.volume : flow.volume;
      }
    });
  }

  #emit(seeding: Seeding, index: number, time: SolverSeconds, dt: number): Given {
    const born = this.#emitters.give(seeding, index, time, dt, this.#salt++, this.#full);
    this.#born.push(born);
    return born;
  }

  frame(span: FrameSpan): LiquidFrame {
    const { frame, end } = span;
    const { environment, options } = this;
    const { clock } = environment;
    const h = options.voxelSize;
    const cell = h ** 3;
    const gravity = Math.hypot(...options.forces.gravity);
    const started = clock();
    const seconds = Object.fromEntries(STAGES.map((s) => [s, 0])) as Record<Stage, number>;
    const ledger: VolumeLedger = { start: this.#measured.volume * cell, filled: 0, emitted: 0, drained: 0, walls: 0, remainder: 0, end: 0 };
    const totals: Totals = {
      cfl: 0,
      iterations: 0,
      residual: 0,
      divergence: 0,
      converged: true,
      viscosityConverged: true,
      met: 0,
      inside: 0,
      correction: 0,
      paid: 0,
      lie: null,
    };
    const taken = withVoxelsThatFit(options.voxelSize, () => this.#advance(span, ledger, seconds, totals));
    const names = environment.volumes ?? [];
    // Settling sorts anew: the velocities of this moment are of the particles as they lie now.
    const early = names.length > 0 ? this.#cloud(end) : null;
    if (names.length > 0) {
      const before = clock();
      const left = this.#step.settle(this.#placed);
      ledger.walls += left * cell;
      this.#expected -= left;
      this.#farthest = 0;
      this.#measure();
      seconds.writing += clock() - before;
    }
    const m = this.#measured;
    ledger.end = m.volume * cell;
    ledger.remainder = ledger.end - (ledger.start + ledger.filled + ledger.emitted - ledger.drained - ledger.walls);
    const w = this.#grid.window;
    const report: LiquidReport = {
      frame,
      time: end,
      seconds,
      totalSeconds: clock() - started,
      particles: this.#alive(),
      liquidVoxels: this.#liquidCells,
      activeVoxels: this.#grid.slots * 512,
      activeTiles: this.#grid.slots,
      window: [w.ox, w.oy, w.oz, w.nx, w.ny, w.nz],
      matterBox: this.#box(),
      memoryBytes: this.#bytes(),
      substepsWanted: taken.wanted,
      substepsUsed: taken.used,
      substepSpeed: taken.speed,
      fastest: m.fastest,
      cflReached: totals.cfl,
      iterations: totals.iterations,
      residual: totals.residual,
      divergence: totals.divergence,
      converged: totals.converged,
      viscosityConverged: totals.viscosityConverged,
      volume: ledger,
      sources: this.#told(),
      surfaceVolume: this.#surface * cell,
      expectedVolume: this.#expected * cell,
      energy: {
        kinetic: 0.5 * options.matter.density * cell * m.squares,
        // Heights at the middle of the substep, where the velocities are.
        potential: options.matter.density * cell * gravity * 0.5 * (m.heights + this.#heightsBefore),
        correction: totals.correction * options.matter.density * cell * h * gravity,
        paid: 0.5 * totals.paid * options.matter.density * cell,
      },
      walls: { met: totals.met, inside: totals.inside },
      lie: totals.lie,
      calibrationSeconds: this.#calibration.seconds(),
    };
    return {
      report,
      cloud: () => early ?? this.#cloud(end),
      volumes: () => collectVolumes(environment.team, this.#grid, names, h),
      inRange: span.inRange,
      state: () => this.#state(frame),
    };
  }

  #told(): SourceTold[] {
    const cell = this.options.voxelSize ** 3;
    return this.#emitters.accounts.flatMap((account, source) => {
      const { asked, given, held } = account;
      return [{ source, asked: asked * cell, given: given * cell, held }];
    });
  }

  /** Particles that are there: those that went into coarse ones in the last substep are still in the arrays. */
  #alive(): number {
    const { count, motionFloats } = this.#particles;
    if (coarseOf(this.options) === null) return count;
    let alive = 0;
    for (let n = 0; n < count; n++) if ((motionFloats[4 * n + 3] ?? 0) > 0) alive++;
    return alive;
  }

  #bytes(): number {
    return this.#grid.bytes + hierarchyBytes(this.#grid.window, this.#grid.size) + this.#particles.bytes + this.#sorter.bytes;
  }

  /** Sources alone: what is there before anything has moved. */
  #still(time: number, ledger: VolumeLedger, seconds: Record<Stage, number>): void {
    const start = this.environment.clock();
    this.#sources(time, 0, ledger);
    this.#grid.follow(
      this.#particles,
      growOf(this.options),
      this.#place(time, 1 / this.options.framesPerSecond).solids,
      false,
      this.options.bounds.mode,
    );
    this.#sorter.sort(this.#particles, this.#grid);
    this.#step.coarsen(this.#placed);
    this.#surface = this.#expected;
    this.#measure();
    this.#heightsBefore = this.#measured.heights;
    seconds.sources += this.environment.clock() - start;
  }

  #place(time: number, dt: number): Placed {
    const motion = this.#motion;
    const end = time + dt;
    const before = this.#placedAt;
    this.#placedAt = end;
    this.#placed = motion.solids(time, dt);
    return {
      solids: this.#placed,
      stood: before !== null && (end === before || motion.solidSpeed(before, end - before) === 0),
      stand: motion.solidSpeed(time, dt) === 0,
    };
  }

  #measure(): void {
    this.#measured = this.#step.measure();
  }

  /** The substeps of a frame; none of a frame that holds sources only. */
  #advance(span: FrameSpan, ledger: VolumeLedger, seconds: Record<Stage, number>, totals: Totals): SubstepsTaken {
    const { options, environment } = this;
    if (isStill(span)) {
      namingFrame(span.frame, () => {
        this.#still(span.end, ledger, seconds);
      });
      return { wanted: 0, used: 0, speed: 0 };
    }
    const { stepping, voxelSize } = options;
    const { cancelled, progress } = environment;
    return takeSubsteps(
      span,
      { stepping, voxelSize, cancelled, progress },
      {
        fastest: (time, left) =>
          Math.max(
            this.#measured.fastest,
            this.#motion.solidSpeed(time, left),
            ...options.sources.map((_s, n) => sourceSpeed(this.#motion, n, time, left)),
          ),
        acceleration: (time) => this.#step.acceleration(time),
        least: (left) => Math.ceil(left / tensionStep(options) - 1e-6),
        step: (time, dt, isLast, number) => {
          this.#substep(time, dt, isLast, ledger, seconds, totals);
          if (this.#measured.broken) throw unstable(span.frame, number);
          this.#step.split();
        },
      },
    );
  }

  #substep(time: SolverSeconds, dt: number, isLast: boolean, ledger: VolumeLedger, seconds: Record<Stage, number>, totals: Totals): void {
    const { environment } = this;
    const before = environment.clock();
    this.#sources(time, dt, ledger);
    seconds.sources += environment.clock() - before;
    const kick = (this.#lastStep + dt) / 2;
    this.#heightsBefore = this.#measured.heights;
    const scale = this.#lastKick > 0 ? kick / this.#lastKick : 1;
    const stepped = this.#step.run(time, dt, kick, scale, this.#expected, this.#place(time, dt), seconds, isLast, this.#born);
    this.#closed = stepped.closed;
    if (stepped.lie) totals.lie = stepped.lie;
    this.#lastStep = dt;
    this.#lastKick = kick;
    this.#farthest = stepped.farthest;
    ledger.walls += stepped.left * this.options.voxelSize ** 3;
    this.#expected -= stepped.left;
    this.#surface = stepped.surfaceVoxels;
    this.#liquidCells = stepped.liquidCells;
    totals.met += stepped.met;
    totals.inside = stepped.inside;
    totals.correction += stepped.raised;
    totals.paid += stepped.paid;
    totals.iterations += stepped.evened;
    totals.iterations += stepped.pressure.iterations;
    totals.residual = Math.max(totals.residual, stepped.pressure.relativeResidual);
    totals.divergence = Math.max(totals.divergence, stepped.pressure.divergence);
    totals.converged &&= stepped.pressure.converged;
    totals.viscosityConverged &&= stepped.viscous?.converged ?? true;
    totals.cfl = Math.max(totals.cfl, stepped.farthest);
    this.#measure();
  }

  #box(): LiquidReport['matterBox'] {
    const { places, count } = { places: this.#particles.placeFloats, count: this.#particles.count };
    if (count === 0) return null;
    const h = this.options.voxelSize;
    const box: [number, number, number, number, number, number] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    for (let n = 0; n < count; n++) {
      for (const a of [0, 1, 2] as const) {
        const v = places[4 * n + a] ?? 0;
        if (v < box[a]) box[a] = v;
        if (v > box[(a + 3) as 3]) box[(a + 3) as 3] = v;
      }
    }
    return box.map((v) => v * h) as unknown as LiquidReport['matterBox'];
  }

  /** Velocities of the same moment as the places: those that particles carry are half a substep older (leapfrog). */
  #velocities(time: SolverSeconds): Float32Array {
    if (this.#lastKick === 0) return this.#particles.motionFloats.slice();
    const step = this.#lastStep;
    const velocities = this.#step.endVelocities(step / 2 / this.#lastKick);
    const seeding = this.#seeding(time, step);
    this.options.sources.forEach((source, n) => {
      // What is held in a source's mouth is not pulled down.
      if (source.act === 'emits' && actsDuring(actingOf(source, this.options), time - step, step))
        this.#emitters.holdAt(seeding, n, time, step, velocities);
    });
    return velocities.slice();
  }

  #cloud(time: SolverSeconds): LiquidCloud {
    return cloudOf(this.#particles, this.#velocities(time), this.options.voxelSize);
  }
}

/** Of particles there are as many more as the volume of a voxel is smaller: says with which size what did not fit would. */
function withVoxelsThatFit<T>(voxelSize: number, body: () => T): T {
  try {
    return body();
  } catch (error) {
    if (!isRuddleError(error, 'arena-too-small') || error.message.includes('would fit')) throw error;
    const { neededBytes, availableBytes } = error.fields;
    const fits = voxelSize * Math.cbrt(neededBytes / availableBytes) * ROOM_TO_SPARE;
    const text = `${error.message} Voxels of ${formatQuantity(fits, 'metre', { digits: 3 })} would fit this much liquid; so would less of it, or a fine layer.`;
    throw new RuddleError('arena-too-small', text, error.fields, error);
  }
}

const unstable = (frame: number, substep: number): RuddleError<'not-finite'> =>
  new RuddleError(
    'not-finite',
    `The particles became unstable (NaN or infinite) at frame ${String(frame)}, substep ${String(substep)}. Try more substeps (a lower CFL number), or look for an extreme source, force or expression.`,
    { frame, substep, channel: 'vel' },
  );

const noForms: FormMaker = (shape) => {
  throw new RuddleError('internal', 'Imported geometry was not given to the solver.', { where: shape.geometry });
};

/** Gravity as it is on Earth, m/s^2. */
export const DOWN: Vec3 = [0, -GRAVITY, 0];
