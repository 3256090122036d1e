import { RuddleError, isRuddleError } from '#core/errors';
import { type SolverSeconds, TIME_SLACK, timeOfFrame } from './clock';
import type { FlowOptions } from './options';

/** A frame as a solver is to compute it: from the state before to its own. */
export interface FrameSpan {
  readonly frame: number;
  readonly begin: SolverSeconds;
  readonly end: SolverSeconds;
  /** False for pre-roll. */
  readonly inRange: boolean;
}

type Ranged = Pick<FlowOptions, 'firstFrame' | 'lastFrame' | 'preRoll' | 'framesPerSecond' | 'firstFrameSolved'>;

/** Frames in their order, pre-roll first; after the one that a snapshot was taken of, when there is one. */
export function* frameSpans(options: Ranged, after: number | null): Generator<FrameSpan> {
  const { firstFrame, lastFrame, preRoll, framesPerSecond: fps } = options;
  for (let frame = after === null ? firstFrame - preRoll : after + 1; frame <= lastFrame; frame++) {
    const begins = frame === firstFrame - preRoll;
    const end = timeOfFrame(frame, options);
    yield { frame, begin: begins && !options.firstFrameSolved ? end : end - 1 / fps, end, inRange: frame >= firstFrame };
  }
}

/** Whether a frame holds sources only: nothing has moved yet. */
export const isStill = ({ begin, end }: FrameSpan): boolean => end - begin < TIME_SLACK;

/** What the driver asks of a solver. */
export interface Substepping {
  /** Fastest that anything moves during [time, time + left], m/s. */
  fastest(time: SolverSeconds, left: number): number;
  /** Acceleration of the matter, m/s^2. */
  acceleration(time: SolverSeconds): number;
  /** Fewest substeps for `left` seconds, at any speed. */
  least?(left: number): number;
  /** `number`: 1 for the first of the frame. */
  step(time: SolverSeconds, dt: number, isLast: boolean, number: number): void;
}

export interface SubstepsTaken {
  /** Substeps that the CFL number asked for; more than `used` only where the maximum forbade them. */
  readonly wanted: number;
  readonly used: number;
  /** Speed that they were chosen for, m/s. */
  readonly speed: number;
}

export interface SubstepLimits {
  readonly stepping: Pick<FlowOptions['stepping'], 'cfl' | 'minimum' | 'maximum'>;
  readonly voxelSize: number;
  readonly cancelled: () => boolean;
  readonly progress?: ((frame: number, part: number) => void) | undefined;
}

/** Throws `cancelled` when it is. */
function unlessCancelled(cancelled: () => boolean): void {
  if (cancelled()) throw new RuddleError('cancelled', 'The run was cancelled.', {});
}

/**
 * Takes a frame's substeps: with time r left, n = ceil(vmax r / (CFL dx)) within the limits, step r / n, looked at again after each. When the maximum binds, what is left is
 * split evenly. Errors of memory name the frame.
 */
export function takeSubsteps({ frame, begin, end }: FrameSpan, limits: SubstepLimits, solver: Substepping): SubstepsTaken {
  const { stepping, voxelSize: h, cancelled, progress } = limits;
  const { cfl, minimum, maximum } = stepping;
  const taken = { wanted: 0, used: 0, speed: 0 };
  let time: SolverSeconds = begin;
  while (end - time > TIME_SLACK) {
    unlessCancelled(cancelled);
    const left = end - time;
    const fastest = solver.fastest(time, left);
    const least = solver.least?.(left) ?? 1;
    const needed = (speed: number): number => Math.max(1, least, Math.ceil((speed * left) / (cfl * h) - 1e-6));
    // The step's own acceleration counts: look once more with the speed that it will reach.
    const reached = fastest + (solver.acceleration(time) * left) / needed(fastest);
    const wanted = needed(reached);
    taken.speed = Math.max(taken.speed, reached);
    const n = Math.max(Math.min(wanted, maximum - taken.used), minimum - taken.used, 1);
    // Matter that leaves or slows within the frame needs fewer than were foreseen: only what the maximum forbade was wanted and not had.
    if (wanted > n) taken.wanted = Math.max(taken.wanted, taken.used + wanted);
    namingFrame(frame, () => {
      solver.step(time, n === 1 ? left : left / n, n === 1, taken.used + 1);
    });
    unlessCancelled(cancelled);
    taken.used++;
    time = n === 1 ? end : time + left / n;
    progress?.(frame, (time - begin) / (end - begin));
  }
  return { ...taken, wanted: Math.max(taken.wanted, taken.used) };
}

/** Says of memory that runs out in the middle of a run at which frame that was. */
export function namingFrame<T>(frame: number, body: () => T): T {
  try {
    return body();
  } catch (error) {
    if (!isRuddleError(error, 'arena-too-small') || error.fields.frame !== null) throw error;
    throw new RuddleError('arena-too-small', `At frame ${String(frame)}: ${error.message}`, { ...error.fields, frame }, error);
  }
}
