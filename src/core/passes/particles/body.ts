import type { Shape } from '#core/geometry';
import type { Followed, Move } from '#core/moves';
import type { ParticlesSettings } from '#core/shot';

/** What particles are born on: a source of the shot, or a solid, nameless. */
export interface Birthplace {
  readonly shape: Shape;
  readonly density: number | null;
  readonly heat: number | null;
  readonly fuel: number | null;
  readonly turnsAbout: readonly [number, number, number] | null;
  readonly moves: Readonly<Record<string, Move>>;
  /** Frames in which it emits, both included (null: without an end), and how many frames a step has; absent: always. */
  readonly during?: { readonly from: number | null; readonly to: number | null; readonly every: number };
}

export interface ParticlesBody {
  readonly settings: Omit<ParticlesSettings, 'source'>;
  readonly places: readonly Birthplace[];
  readonly followed: Followed;
  /** Seconds of the computation in a frame. */
  readonly frameSeconds: number;
  readonly firstFrame: number;
  /** Of the shot. */
  readonly framesPerSecond: number;
}
