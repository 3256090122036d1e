import { listFrames } from '#core/pass';
import type { FollowerPlan } from './follower';
import { definitionOf } from './registry';

/** Frames that a Sketch of a pass shows. */
export const SKETCH_FRAMES = 8;

/** A Sketch of a pass: its plan over a few frames, and the first of those that are shown; those before it lead up to it. */
export interface PassSketchPlan {
  readonly plan: FollowerPlan;
  readonly shown: number;
}

/** The Sketch of a pass around a frame; null: its kind has none. It begins earlier, from what it reads, as if nothing had been before. */
export function passSketch(plan: FollowerPlan, frame: number): PassSketchPlan | null {
  const { sketch } = definitionOf(plan.pass);
  if (!sketch) return null;
  const all = listFrames(plan.frames);
  const at = Math.max(
    0,
    all.findLastIndex((f) => f <= frame),
  );
  // The whole of it lies in the range.
  const count = sketch.frames ?? SKETCH_FRAMES;
  const start = Math.max(0, Math.min(at, all.length - count));
  const [shown, last] = [all[start], all[Math.min(all.length - 1, start + count - 1)]];
  const wanted = all[Math.max(0, start - sketch.lead)];
  if (shown === undefined || last === undefined || wanted === undefined) return null;
  const first = sketch.at?.(plan.body, wanted) ?? wanted;
  const frames = { first, last, every: plan.frames.every };
  const begins = first === plan.frames.first ? plan.body : sketch.from(plan.body, first);
  return { plan: { ...plan, rung: 'sketch', frames, body: begins, gives: { ...plan.gives, frames } }, shown };
}
