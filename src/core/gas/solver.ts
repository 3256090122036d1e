import {
  Bounds,
  Calibration,
  ForceFields,
  type FrameSpan,
  Motion,
  type SolverSeconds,
  type SubstepsTaken,
  capacityFor,
  checkFits,
  frameSpans,
  isStill,
  limitWindow,
  makeTurbulence,
  namingFrame,
  takeSubsteps,
  timeOfFrame,
} from '#core/flow';
import { RuddleError } from '#core/errors';
import type { FormMaker, Picture } from '#core/geometry';
import type { Clock, KernelTeam, TileGrid, Window } from '#core/grid';
import { collectChannels, type ChannelRequest } from './channels';
import { leastBytes } from './feasible';
import { allocateFields, type GasFields, contentsOf, fieldNames } from './fields';
import { type GasOptions, type GasSource, type GasMatter } from './options';
import { type Amounts, type FrameReport, type Ledgers, STAGES, type Stage, closeLedger, emptyLedgers } from './report';
import type { PreparedSource } from './prepared';
import { type GasSnapshot, fillFields, readSnapshot, windowOfSnapshot, writeSnapshot } from './snapshot';
import { forgetCovers, prepareSources, sourceSpeed } from './sources';
import { GasStep, joules, type Work } from './step';

/** Bumped whenever the same settings would give another result. Part of every run key. */
export const GAS_VERSION = 'gas-6';

export interface GasFrame {
  readonly report: FrameReport;
  /** The requested channels of the frame. */
  readonly grids: readonly TileGrid[];
  /** False for pre-roll. */
  readonly inRange: boolean;
  /** The run's state after this frame: what a run can begin with instead. To be asked for before the next frame is. */
  readonly state: () => Uint8Array<ArrayBuffer>;
}

/** The fields as they lie in memory. */
export interface GasState {
  readonly team: KernelTeam;
  readonly fields: Readonly<GasFields>;
  readonly window: Window;
  /** Entries of a field. */
  readonly size: number;
  readonly bounds: Bounds<GasFields>;
}

/** What a run is drawn to. */
export interface Guide {
  /** World voxels that are awake at the beginning, beside those of the sources: boxes of six numbers, both ends included. */
  readonly awake: readonly number[];
  /** Changes the velocities of a substep that ends at `time`, before the projection. */
  readonly draw: (state: GasState, time: number, dt: number) => void;
}

/** What gives to a run beside its sources. */
export interface Feed {
  /** World voxels that it can give to during [time, time + dt]: boxes of six numbers, both ends included. */
  readonly touches: (time: number, dt: number) => readonly number[];
  /** The fastest that it moves gas to during it, m/s. */
  readonly speed: (time: number, dt: number) => number;
  /** Gives to the fields what belongs to [time, time + dt]. Returns what it brought, x voxels. */
  readonly give: (state: GasState, time: number, dt: number) => Amounts;
}

export interface GasEnvironment {
  readonly team: KernelTeam;
  readonly clock: Clock;
  readonly channels: ChannelRequest;
  /** Polled at every pressure iteration and substep. */
  readonly cancelled: () => boolean;
  /** Makes the forms of imported geometry; without it there may be none in the options. */
  readonly forms?: FormMaker;
  /** Pictures that emission is masked by, by their fingerprint. */
  readonly pictures?: (hash: string) => Picture;
  /** Sets the state before the first frame; without it everything is ambient. */
  readonly initial?: (state: GasState) => void;
  readonly guide?: Guide;
  readonly feed?: Feed;
  /** Called within a frame: which, and how much of it is done. */
  readonly progress?: (frame: number, part: number) => void;
  /** State after a frame of a run of the same options: the frames after it are computed, to the bit as they would have been. */
  readonly from?: Uint8Array | null;
}

/**
 * Computes a gas run frame by frame. Refuses (`arena-too-small`) before the first frame bounds that cannot fit; throws `arena-too-small`,
 * `not-finite` or `cancelled` in the middle of a run: frames yielded before are whole.
 */
export function* solveGas(options: GasOptions, environment: GasEnvironment): Generator<GasFrame> {
  const { team } = environment;
  checkFits(leastBytes(options), team.available());
  const from = environment.from ? readSnapshot(environment.from, GAS_VERSION, options) : null;
  const run = new GasRun(options, environment, from);
  for (const span of frameSpans(options, from ? from.frame : null)) yield run.frame(span);
}

class GasRun {
  readonly #fields: GasFields;
  readonly #bounds: Bounds<GasFields>;
  readonly #step: GasStep;
  readonly #sources: PreparedSource[];
  readonly #calibration: Calibration;
  #lastStep = 0;
  /** Start and length of the time for which bounds and solids were last placed. */
  #placed: readonly [number, number] = [0, 0];
  readonly #motion: Motion<GasSource, GasMatter>;

  constructor(
    private readonly options: GasOptions,
    private readonly environment: GasEnvironment,
    from: GasSnapshot | null,
  ) {
    const { team, clock, cancelled, guide, feed } = environment;
    const turbulence = options.forces.turbulence ? makeTurbulence(team, options.forces.turbulence) : null;
    this.#motion = new Motion(options, environment.forms ?? noForms);
    const forceFields = new ForceFields(team, options, this.#motion);
    this.#calibration = new Calibration(team, clock);
    const capacity = capacityFor(limitWindow(options), team.available(), fieldNames(options.matter).length);
    this.#fields = allocateFields(team, capacity, options.matter);
    this.#bounds = new Bounds(team, options, this.#fields, contentsOf(options.matter), capacity, this.#motion.stillSolids());
    this.#bounds.wind = this.#motion.wind(timeOfFrame(options.firstFrame - options.preRoll, options));
    this.#sources = prepareSources(options, this.#motion, environment.pictures ?? noPictures);
    this.#step = new GasStep({
      team,
      options,
      bounds: this.#bounds,
      fields: this.#fields,
      sources: this.#sources,
      motion: this.#motion,
      turbulence,
      forceFields,
      clock,
      cancelled,
      tileCapacity: Math.ceil(capacity / 512) + 1,
      draw: guide ? (time, dt) => guide.draw(this.#told, time, dt) : null,
      feed: feed ? { touches: feed.touches, give: (time, dt) => feed.give(this.#told, time, dt) } : null,
    });
    if (from) this.#restore(from);
    else this.#begin();
    if (!from) environment.initial?.(this.#told);
  }

  get #told(): GasState {
    const bounds = this.#bounds;
    return { team: this.environment.team, fields: this.#fields, window: bounds.window, size: bounds.size, bounds };
  }

  #begin(): void {
    const { firstFrame, preRoll, framesPerSecond } = this.options;
    const first = firstFrame - preRoll;
    const length = 1 / framesPerSecond;
    this.#placed = [timeOfFrame(first, this.options) - length, length];
    const moving = this.#motion.solids(...this.#placed);
    const census = this.#step.census(this.#placed[0], length + 1e-9);
    const awake = this.environment.guide?.awake ?? [];
    namingFrame(first, () => {
      this.#bounds.start({ ...census, matter: [...census.matter, ...awake] }, moving);
    });
    this.#step.boundsChanged(moving);
  }

  #restore(from: GasSnapshot): void {
    this.#placed = from.placed;
    this.#lastStep = from.lastStep;
    this.#step.restore(from.stepTime);
    const moving = this.#motion.solids(...from.placed);
    this.#bounds.restore(windowOfSnapshot(from), from.tiles, moving);
    this.#step.boundsChanged(moving);
    fillFields(from, this.environment.team, this.options, this.#bounds, this.#fields);
    this.#sources.forEach(({ trail }, n) => {
      const marks = from.trails[n];
      if (trail && marks) for (let m = 0; m < marks.length; m += 2) trail.set(marks[m] ?? 0, marks[m + 1] ?? 0);
    });
  }

  #state(frame: number): Uint8Array<ArrayBuffer> {
    const { environment, options } = this;
    return writeSnapshot(GAS_VERSION, environment.team, options, this.#bounds, this.#fields, {
      frame,
      lastStep: this.#lastStep,
      stepTime: this.#step.time,
      placed: this.#placed,
      trails: this.#sources.map((s) => s.trail),
    });
  }

  frame(span: FrameSpan): GasFrame {
    const { frame, begin, end, inRange } = span;
    const { environment, options } = this;
    const step = this.#step;
    const h = options.voxelSize;
    const seconds = Object.fromEntries(STAGES.map((s) => [s, 0])) as Record<Stage, number>;
    const started = environment.clock();
    const ledger = emptyLedgers();
    step.measure(frame, 0);
    ledger.mass.start = step.statistics.mass * h ** 3;
    ledger.heat.start = step.statistics.warmth * h ** 3;
    const work: Work = { buoyancy: 0, forces: 0, confinement: 0, smoothing: 0, loss: 0 };
    const totals = { cfl: 0, iterations: 0, residual: 0, divergence: 0, converged: true, trapped: 0 };
    const taken = this.#advance(span, ledger, work, seconds, totals);
    step.measure(frame, taken.used);
    closeLedger(ledger.mass, step.statistics.mass * h ** 3);
    closeLedger(ledger.heat, step.statistics.warmth * h ** 3);
    const duration = Math.max(end - begin, 1e-9);
    const writing = environment.clock();
    const grids = collectChannels(environment.team, this.#bounds, this.#fields, options, environment.channels);
    seconds.writing += environment.clock() - writing;
    const w = this.#bounds.window;
    const level = this.#bounds.hierarchy.finest;
    const s = step.statistics;
    const watts = (value: number): number => joules(value, h) / duration;
    const report: FrameReport = {
      frame,
      time: end,
      seconds,
      totalSeconds: environment.clock() - started,
      activeVoxels: level.count * 512,
      activeTiles: level.count,
      finerVoxels: this.#bounds.finerVoxels,
      matterTiles: step.matterTiles,
      window: [w.ox, w.oy, w.oz, w.nx, w.ny, w.nz],
      matterBox: this.#bounds.matter,
      memoryBytes: this.#bounds.bytes,
      substepsWanted: taken.wanted,
      substepsUsed: taken.used,
      substepSpeed: taken.speed,
      fastest: s.speed,
      cflReached: totals.cfl,
      iterations: totals.iterations,
      residual: totals.residual,
      divergence: totals.divergence,
      converged: totals.converged,
      trapped: totals.trapped,
      roughness: step.roughness,
      energy: {
        kinetic: joules(s.energy, h),
        buoyancy: watts(work.buoyancy),
        forces: watts(work.forces),
        confinement: watts(work.confinement),
        smoothing: watts(work.smoothing),
        loss: watts(work.loss),
      },
      mass: ledger.mass,
      heat: ledger.heat,
      maxima: { density: s.density, temperature: options.matter.ambient + s.heat, speed: s.speed },
      calibrationSeconds: this.#calibration.seconds(),
    };
    return { report, grids, inRange, state: () => this.#state(frame) };
  }

  /** The substeps of a frame; a frame that holds sources only gets their emission and none. */
  #advance(span: FrameSpan, ledger: Ledgers, work: Work, seconds: Record<Stage, number>, totals: Totals): SubstepsTaken {
    const { options, environment } = this;
    const step = this.#step;
    const { frame, end } = span;
    if (isStill(span)) {
      // Solids where they are now: not where the next frame will have them.
      const length = 1 / options.framesPerSecond;
      namingFrame(frame, () => {
        this.#follow(end - length, length, ledger, seconds);
      });
      step.emit(end - length, length, ledger);
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
            step.statistics.speed,
            sourceSpeed(this.#sources, time, left),
            this.#motion.solidSpeed(time, left),
            environment.feed?.speed(time, left) ?? 0,
          ),
        acceleration: () => step.acceleration(),
        step: (time, dt, _isLast, number) => {
          this.#substep(time, dt, ledger, work, seconds, totals);
          step.measure(frame, number);
          totals.cfl = Math.max(totals.cfl, (step.statistics.speed * dt) / voxelSize);
        },
      },
    );
  }

  #substep(time: SolverSeconds, dt: number, ledger: Ledgers, work: Work, seconds: Record<Stage, number>, totals: Totals): void {
    const step = this.#step;
    this.#follow(time, dt, ledger, seconds);
    if (this.#lastStep > 0) step.rescalePressure(dt / this.#lastStep);
    this.#lastStep = dt;
    const solved = step.run(time, dt, ledger, work, seconds);
    totals.iterations += solved.iterations;
    totals.residual = Math.max(totals.residual, solved.relativeResidual);
    totals.divergence = Math.max(totals.divergence, solved.divergence);
    totals.converged &&= solved.converged;
    totals.trapped = Math.max(totals.trapped, step.trapped);
  }

  /** Bounds and solids for [time, time + dt]. */
  #follow(time: SolverSeconds, dt: number, ledger: Ledgers, seconds: Record<Stage, number>): void {
    const start = this.environment.clock();
    const moving = this.#motion.solids(time, dt);
    this.#placed = [time, dt];
    const {
      changed,
      asleep: [massAsleep = 0, heatAsleep = 0],
      swept,
    } = this.#bounds.follow(this.#step.census(time, dt), moving);
    ledger.mass.asleep += massAsleep * this.options.voxelSize ** 3;
    ledger.heat.asleep += heatAsleep * this.options.voxelSize ** 3;
    if (changed) {
      forgetCovers(this.#sources);
      this.#step.boundsChanged(moving);
    }
    if (swept) this.#step.recordSwept(swept, ledger);
    seconds.bounds += this.environment.clock() - start;
  }
}

/** Of a frame's substeps. */
interface Totals {
  cfl: number;
  iterations: number;
  residual: number;
  divergence: number;
  converged: boolean;
  trapped: number;
}

const noPictures = (hash: string): Picture => {
  throw new RuddleError('internal', 'A picture was not given to the solver.', { where: hash });
};

const noForms: FormMaker = (shape) => {
  throw new RuddleError('internal', 'Imported geometry was not given to the solver.', { where: shape.geometry });
};
