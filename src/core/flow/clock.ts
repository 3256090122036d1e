import type { ShotSeconds } from '#core/moves';
import type { FlowOptions } from './options';

/**
 * Seconds of the computation since the first frame. With a time scale of s, a second of the shot is s of them: matter, forces, noise and everything that is "per second"
 * knows these only; keys, expressions and animations know the shot's.
 */
export type SolverSeconds = number & { readonly seconds?: 'solver' };

/** A margin of float rounding on times that should meet exactly. */
export const TIME_SLACK = 1e-9;

type Clocked = Pick<FlowOptions, 'firstFrame' | 'framesPerSecond' | 'timeScale'>;

/** When the state at a frame is reached. `framesPerSecond` of the options counts seconds of the computation. */
export const timeOfFrame = (
  frame: number,
  { firstFrame, framesPerSecond }: Pick<Clocked, 'firstFrame' | 'framesPerSecond'>,
): SolverSeconds => (frame - firstFrame) / framesPerSecond;

export const shotTime = (time: SolverSeconds, { timeScale }: Pick<Clocked, 'timeScale'>): ShotSeconds => time / timeScale;

/** Frames in which a source acts, both included; null: from the beginning, to the end. */
interface Framed {
  readonly from: number | null;
  readonly to: number | null;
}

/** When a source acts. */
export interface Acting {
  readonly from: SolverSeconds;
  readonly to: SolverSeconds;
}

/** From the step that leads to its first frame to the state at its last one. */
export const actingOf = ({ from, to }: Framed, clock: Clocked): Acting => ({
  from: from === null ? -Infinity : timeOfFrame(from - 1, clock),
  to: to === null ? Infinity : timeOfFrame(to, clock),
});

/** Whether it acts during [time, time + dt]. Times that meet but for rounding do not overlap: a source would act for 1e-17 s, and one that moves at 1e15 m/s. */
export const actsDuring = ({ from, to }: Acting, time: SolverSeconds, dt: number): boolean =>
  time + dt > from + TIME_SLACK && time < to - TIME_SLACK;
