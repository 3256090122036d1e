import { RuddleError } from '#core/errors';
import { type FrameReport, type GasChannel, type GasFrame, type GasOptions, solveGas } from '#core/gas';
import type { FormMaker, Picture } from '#core/geometry';
import type { Clock, KernelTeam } from '#core/grid';
import { type FrameFacts, type PassDefinition, listFrames } from '#core/pass';
import { type HeldSettings, type GasSolve, essenceOfOptions, geometriesOfOptions, planToRun, isLiquid } from '#core/shot';
import { formatCount } from '#core/units';
import { type BasePart, MOVED_FIGURES, type Moved, type Spectra, movedTooFar } from '../upscale';
import { Hold } from './guide';

export interface HeldBody {
  readonly settings: Pick<HeldSettings, 'strength' | 'time' | 'length'>;
  readonly options: GasOptions;
  readonly channels: readonly GasChannel[];
  readonly precision: 'half' | 'full';
  readonly compression: 'blosc' | 'zip' | 'none';
  /** Voxel size of the base (the finest of its parts), metres; and every which frame it has. */
  readonly base: number;
  readonly every: number;
}

export interface HeldReport extends FrameFacts {
  readonly activeVoxels: number;
  readonly inputVoxels: number;
  readonly substeps: number;
  readonly iterations: number;
  readonly converged: boolean;
  /** Density x m^3 at the end of the frame. */
  readonly mass: number;
  /** Relative low-passed difference of the velocity from the base's, where the base is awake, at the end of the frame. */
  readonly apart: number;
  readonly fastest: number;
  /** How far the matter lies from the base's, seen at its voxels; null: the base has no frame here, or one of the two no matter. */
  readonly moved: Moved | null;
  readonly spectra: Spectra | null;
}

/** A frame against the base's. */
type HeldAgainst = Pick<HeldReport, 'apart' | 'moved' | 'spectra'>;

interface HeldJob {
  readonly body: HeldBody;
  readonly team: KernelTeam;
  readonly forms: FormMaker;
  readonly pictures: (hash: string) => Picture;
  readonly clock: Clock;
  /** State of the solve after a frame, to go on from. */
  readonly from: Uint8Array | null;
  readonly read: (frame: number) => readonly BasePart[];
}

/** A solve that begins with the matter and motion of the base's first frame, and whose large motion is drawn to the base's. */
export class Held {
  readonly #hold: Hold;
  readonly #frames: Generator<GasFrame>;
  /** Frames of the base that are at hand: a file is read once. */
  readonly #read = new Map<number, readonly BasePart[]>();

  constructor(private readonly job: HeldJob) {
    const { body, team, from } = job;
    const { options } = body;
    const hold = new Hold(team, body.base, options, body.settings);
    this.#hold = hold;
    const first = from ? null : this.#base(options.firstFrame);
    this.#frames = solveGas(options, {
      team,
      clock: job.clock,
      channels: { names: body.channels },
      cancelled: () => false,
      forms: job.forms,
      pictures: job.pictures,
      from,
      ...(first ? { initial: (state) => hold.fill(first, state) } : {}),
      guide: { awake: first ? hold.awake(first) : [], draw: hold.draw },
    });
  }

  #base(frame: number): readonly BasePart[] {
    const known = this.#read.get(frame) ?? this.job.read(frame);
    this.#read.set(frame, known);
    return known;
  }

  /** The next frame. */
  frame(frame: number): GasFrame & HeldAgainst {
    const { body } = this.job;
    const { firstFrame, framesPerSecond } = body.options;
    const seconds = (f: number): number => (f - firstFrame) / framesPerSecond;
    if (frame > firstFrame) {
      const low = firstFrame + Math.floor((frame - 1 - firstFrame) / body.every) * body.every;
      const high = low + body.every;
      for (const f of this.#read.keys()) if (f < low) this.#read.delete(f);
      this.#hold.between(this.#base(low), this.#base(high), [seconds(low), seconds(high)]);
    }
    const next = this.#frames.next();
    if (next.done === true) throw new RuddleError('internal', `There is no frame ${String(frame)} of this solve.`, { where: 'held' });
    // Between two frames of the base there is nothing to hold it against.
    const meets = (frame - firstFrame) % body.every === 0;
    return {
      ...next.value,
      apart: this.#hold.apart(seconds(frame)) ?? 0,
      ...(meets ? this.#hold.against(this.#base(frame)) : { moved: null, spectra: null }),
    };
  }
}

export const heldFacts = (
  report: FrameReport,
  { apart, moved, spectra }: HeldAgainst,
  inputVoxels: number,
): Omit<HeldReport, keyof FrameFacts> => ({
  activeVoxels: report.activeVoxels,
  inputVoxels,
  substeps: report.substepsUsed,
  iterations: report.iterations,
  converged: report.converged,
  mass: report.mass.end,
  apart,
  moved,
  spectra,
  fastest: report.fastest,
});

/** The range is the plan's: frames are asked for one by one, and a longer range is the same solve. */
const FOR_EVER = 1_000_000;
const BYTES_PER_VOXEL = 74;
/** What a voxel of the base takes, in fine ones: its motion is compared and smoothed in each substep. */
const OF_BASE = 6;
/** Voxels of the window for an active one. */
const WINDOW_PER_ACTIVE = 2;

/** The sheet with what the held solve sets anew; what moved there stands still then. */
function withOwn(sheet: GasSolve, { confinement, velocityAdvection, scalarAdvection, cfl }: HeldSettings): GasSolve {
  const { forces, matter, stepping } = sheet;
  const { confinement: _moved, ...moves } = forces.moves;
  return {
    ...sheet,
    forces: confinement === null ? forces : { ...forces, confinement, moves },
    matter: {
      ...matter,
      velocityAdvection: velocityAdvection === 'sheet' ? matter.velocityAdvection : velocityAdvection,
      scalarAdvection: scalarAdvection === 'sheet' ? matter.scalarAdvection : scalarAdvection,
    },
    stepping: cfl === null ? stepping : { ...stepping, cfl },
  };
}

export const heldDefinition: PassDefinition<HeldSettings, HeldBody, HeldReport> = {
  title: 'Held solve',
  about:
    "The sheet's solve at a finer voxel size, its large motion held to a cached coarse run: real fluid, and the motion that was approved.",
  version: 1,
  essence: ({ options, ...body }) => ({ ...body, options: essenceOfOptions(options) }),
  order: 'sequential',
  output: 'vdb',
  accepts: ['vdb'],
  needs: { vdb: ['vel', 'density', 'temperature'] },
  resolve: ({ shot, solve: sheet, input }, own) => {
    const { factor, strength, time, length } = own;
    const refuse = (message: string): RuddleError<'settings-invalid'> =>
      new RuddleError('settings-invalid', `This cannot be computed: ${message}.`, { issues: [{ path: 'factor', message }] });
    if (isLiquid(sheet)) throw refuse('the sheet is of a liquid, and it is a gas solve');
    const solve = withOwn(sheet, own);
    const base = Math.min(...input.voxelSizes);
    if (!(base > 0 && Number.isFinite(base))) throw refuse('the voxel size of what it reads is not known, as its files hold no voxels');
    const plan = planToRun(shot, solve, 'final', base / factor / solve.detail.voxelSize);
    if (plan.beside.length > 0) throw refuse('it computes in one limit box, and the sheet has bounds beside');
    if (plan.options.matter.fire && !input.channels.includes('fuel'))
      throw refuse('something burns, and fuel is not kept in what it reads');
    const { first, last, every } = input.frames;
    if (first < shot.firstFrame) throw refuse('what it reads begins in the pre-roll: let it keep the range only');
    const { keep } = plan;
    return {
      body: {
        settings: { strength, time, length },
        options: { ...plan.options, firstFrame: shot.firstFrame, lastFrame: FOR_EVER, preRoll: 0, firstFrameSolved: false },
        channels: keep.channels,
        precision: keep.precision,
        compression: keep.compression,
        base,
        every,
      },
      frames: { first, last: first + Math.floor((last - first) / every) * every, every: 1 },
      gives: { output: 'vdb', voxelSizes: [plan.options.voxelSize], channels: keep.channels, file: plan.file },
    };
  },
  geometry: ({ options }) => geometriesOfOptions(options),
  reads: ({ options }, given) => listFrames(given).filter((f) => f >= options.firstFrame),
  // Begun anew from the base there: seconds count from it.
  sketch: {
    lead: 16,
    from: (body, frame) => ({ ...body, options: { ...body.options, firstFrame: frame } }),
    // Its matter is a frame of the base's.
    at: ({ every, options }, frame) => frame - ((frame - options.firstFrame) % every),
  },
  factor: ({ base, options }) => base / options.voxelSize,
  cost: {
    elements: ({ base, options }, input) => input * (OF_BASE + (base / options.voxelSize) ** 3),
    kept: ({ base, options }, input) => input * (base / options.voxelSize) ** 3,
    rates: { secondsPerElement: 1.7e-6, bytesPerKept: 6 },
    memoryBytes: ({ base, options }, input) => BYTES_PER_VOXEL * WINDOW_PER_ACTIVE * input * (base / options.voxelSize) ** 3,
  },
  line: (r) =>
    `${formatCount(r.activeVoxels)} voxels, ${String(r.substeps)} ${r.substeps === 1 ? 'substep' : 'substeps'}, ${(100 * r.apart).toFixed(1)} % off the base's large motion`,
  figures: MOVED_FIGURES,
  checks: ({ mayMove }, reports) =>
    movedTooFar(mayMove, reports, 'Raise the strength or shorten the time constant; or hold smaller motion too.'),
  spectra: (r) => r.spectra,
  nothing: ({ mass }) => (mass > 0 ? null : 'There is no density at this frame: look at the same frame of what it is held to.'),
};
