import { RuddleError } from '#core/errors';
import type { ParticleColumns } from '#core/formats';
import { type FrameReport, type GasFrame, solveGas } from '#core/gas';
import type { FormMaker, Picture } from '#core/geometry';
import type { Clock, KernelTeam } from '#core/grid';
import { type FrameFacts, type FrameList, type PassDefinition, listFrames } from '#core/pass';
import { type FedSettings, type GasSolve, essenceOfOptions, geometriesOfOptions, planToRun, isLiquid } from '#core/shot';
import { formatCount } from '#core/units';
import type { FedBody } from './body';
import { ParticleFeed } from './feed';

export type { FedBody } from './body';

export interface FedReport extends FrameFacts {
  readonly activeVoxels: number;
  /** Particles that give something, of those that were read. */
  readonly particles: number;
  readonly substeps: number;
  readonly iterations: number;
  readonly converged: boolean;
  /** Density x m^3 at the end of the frame, and what came in with sources and particles. */
  readonly mass: number;
  readonly brought: number;
  readonly fastest: number;
}

interface FedJob {
  readonly body: FedBody;
  readonly team: KernelTeam;
  readonly forms: FormMaker;
  readonly pictures: (hash: string) => Picture;
  readonly clock: Clock;
  /** State of the solve after a frame, to go on from. */
  readonly from: Uint8Array | null;
  readonly points: (frame: number) => ParticleColumns;
  /** Offers a state after each frame of the pre-roll: they are all computed within the first frame. */
  readonly keep?: (frame: number, state: () => Uint8Array<ArrayBuffer>, memoryBytes: number) => void;
}

/** A solve that cached particles give to, beside its sources or alone. */
export class Fed {
  readonly #feed: ParticleFeed;
  readonly #frames: Generator<GasFrame>;

  readonly #keep: FedJob['keep'];

  constructor({ body, team, forms, pictures, clock, from, points, keep }: FedJob) {
    this.#keep = keep;
    this.#feed = new ParticleFeed(body, points);
    this.#frames = solveGas(body.options, {
      team,
      clock,
      channels: { names: body.channels },
      cancelled: () => false,
      forms,
      pictures,
      from,
      feed: this.#feed,
    });
  }

  /** The next frame of the range; pre-roll is computed on the way. */
  frame(frame: number): GasFrame & { readonly particles: number } {
    for (;;) {
      const next = this.#frames.next();
      if (next.done === true) throw new RuddleError('internal', `There is no frame ${String(frame)} of this solve.`, { where: 'fed' });
      if (next.value.report.frame >= frame) return { ...next.value, particles: this.#feed.chosen };
      const { report, state } = next.value;
      this.#keep?.(report.frame, state, report.memoryBytes);
    }
  }
}

export const fedFacts = (report: FrameReport, particles: number): Omit<FedReport, keyof FrameFacts> => ({
  activeVoxels: report.activeVoxels,
  particles,
  substeps: report.substepsUsed,
  iterations: report.iterations,
  converged: report.converged,
  mass: report.mass.end,
  brought: report.mass.sources,
  fastest: report.fastest,
});

/** The range is the plan's: frames are asked for one by one, and a longer range is the same solve. */
const FOR_EVER = 1_000_000;
const BYTES_PER_VOXEL = 78;
/** Voxels of the window for an active one; and those that a thousand particles are likely to wake: ten times as many lie closer, and wake twice as many. */
const WINDOW_PER_ACTIVE = 2;
const VOXELS_OF_THOUSAND = 35_000;
/** Of a particle that does not say how far it reaches. */
const REACH_VOXELS = 2;

/** Voxels that a frame is likely to have: matter spreads as it ages. */
const voxelsOf = (particles: number, age: number): number => VOXELS_OF_THOUSAND * Math.cbrt(particles / 1000) * Math.min(4, 1 + age / 24);

/** Of a range of frames, those that there are. */
const within = (given: FrameList, first: number, last: number): number[] => listFrames(given).filter((f) => f >= first && f <= last);

/** A frame past the range can be that which its end is reckoned back from. */
const onePast = ({ every }: FrameList): number => every - 1;

function sheetOf(solve: GasSolve, { sources }: FedSettings): GasSolve {
  return sources ? solve : { ...solve, sources: solve.sources.map((s) => ({ ...s, hidden: true })) };
}

export const fedDefinition: PassDefinition<FedSettings, FedBody, FedReport> = {
  title: 'Gas from particles',
  about: "The sheet's solve with cached particles as one more source, or as the only one: dust off debris, smoke off sparks.",
  version: 1,
  essence: ({ options, given: { last: _last, ...given }, ...body }) => ({ ...body, given, options: essenceOfOptions(options) }),
  // A frame between two that have particles is given to by the later one.
  ahead: ({ given }) => given.every - 1,
  order: 'sequential',
  output: 'vdb',
  accepts: ['ply'],
  needs: {},
  resolve: ({ shot, solve, rung, input }, own) => {
    const refuse = (path: string, message: string): RuddleError<'settings-invalid'> =>
      new RuddleError('settings-invalid', `This cannot be computed: ${message}.`, { issues: [{ path, message }] });
    const { sources: _s, densityRadius, heatRadius, velocityRadius, ...settings } = own;
    const knows = (channel: string): boolean => input.channels.includes(channel);
    const moves = knows('v') || knows('vx');
    const asked = { age: knows('age'), part: knows('age') && knows('life'), speed: moves, number: knows('id'), all: true }[own.test];
    if (!asked) throw refuse('test', 'the particles that it reads do not have what they are tested by: choose another test');
    if (own.inherits !== 0 && !moves) throw refuse('inherits', 'the particles that it reads have no velocity: inherit none of it');
    if (isLiquid(solve)) throw refuse('sources', 'the sheet is of a liquid, and it is a gas solve');
    const plan = planToRun(shot, sheetOf(solve, own), rung);
    if (plan.beside.length > 0) throw refuse('sources', 'it computes in one limit box, and the sheet has bounds beside');
    const { firstFrame: first, lastFrame: last, preRoll, voxelSize } = plan.options;
    if (within(input.frames, first - preRoll, last + onePast(input.frames)).length === 0)
      throw refuse('from', 'what it reads has no frame in the range of the shot');
    const { keep } = plan;
    const reach = REACH_VOXELS * voxelSize;
    return {
      body: {
        settings: {
          ...settings,
          densityRadius: densityRadius ?? reach,
          heatRadius: heatRadius ?? reach,
          velocityRadius: velocityRadius ?? reach,
        },
        options: { ...plan.options, lastFrame: FOR_EVER },
        channels: keep.channels,
        precision: keep.precision,
        compression: keep.compression,
        given: input.frames,
        ages: knows('age'),
      },
      frames: { first, last, every: 1 },
      gives: { output: 'vdb', voxelSizes: [voxelSize], channels: keep.channels, file: plan.file },
    };
  },
  geometry: ({ options }) => geometriesOfOptions(options),
  reads: ({ options, settings }, given) =>
    within(given, Math.max(options.firstFrame - options.preRoll, settings.from ?? -Infinity), (settings.to ?? Infinity) + onePast(given)),
  cost: {
    elements: (_body, input, age) => voxelsOf(input, age),
    kept: (_body, input, age) => voxelsOf(input, age),
    rates: { secondsPerElement: 3e-6, bytesPerKept: 6 },
    memoryBytes: (_body, input) => BYTES_PER_VOXEL * WINDOW_PER_ACTIVE * voxelsOf(input, 96),
  },
  line: (r) =>
    `${formatCount(r.activeVoxels)} voxels, ${formatCount(r.particles)} particles, ${String(r.substeps)} ${r.substeps === 1 ? 'substep' : 'substeps'}`,
  figures: [
    { id: 'particles', title: 'Particles that give', unit: 'none', of: (r) => r.particles },
    { id: 'mass', title: 'Density x room', unit: 'none', of: (r) => r.mass },
  ],
  checks: (_own, reports) => {
    if (reports.length === 0 || reports.some((r) => r.particles > 0)) return [];
    const text =
      'In none of its frames a particle passes the test at an active frame: widen the range of the test, raise the share, or look at the frames from and to.';
    return [{ id: 'nobody', title: 'No particle gives anything', text }];
  },
  nothing: ({ mass, particles }) => {
    if (mass > 0) return null;
    return particles === 0
      ? 'No particle gives anything at this frame: look at the test, the share and the active frames.'
      : 'The particles give no density: set one, or look at the temperature.';
  },
};
