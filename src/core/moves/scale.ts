import type { Move, Moves } from './moves';

const short = (v: number): number => Number(v.toPrecision(6));

/**
 * Moves of a set that becomes larger: everything takes `stretch` times as long, and the number at a path becomes `factorOf(path)` times as large. Keys move
 * in their frames, expressions get their time slowed down and their value scaled.
 */
export function scaledMoves(moves: Moves, stretch: number, firstFrame: number, factorOf: (path: string) => number): Moves {
  const one = (path: string, move: Move): Move => {
    const factor = factorOf(path);
    const limits = move.limits && { limits: [short(move.limits[0] * factor), short(move.limits[1] * factor)] as const };
    if (move.kind === 'keys') {
      const slope = (s: number | null): number | null => (s === null ? null : short((s * factor) / stretch));
      return {
        kind: 'keys',
        ...limits,
        keys: move.keys.map((k) => ({
          ...k,
          frame: short(firstFrame + (k.frame - firstFrame) * stretch),
          value: short(k.value * factor),
          arrive: slope(k.arrive),
          leave: slope(k.leave),
        })),
      };
    }
    const slowed = move.text
      .replace(/\btime\b/g, `(time / ${String(short(stretch))})`)
      .replace(/\bframe\b/g, `(${String(firstFrame)} + (frame - ${String(firstFrame)}) / ${String(short(stretch))})`)
      // The number on the sheet has become larger already.
      .replace(/\bvalue\b/g, factor === 1 ? 'value' : `(value / ${String(short(factor))})`);
    return { kind: 'expression', ...limits, text: factor === 1 ? slowed : `(${slowed}) * ${String(short(factor))}` };
  };
  return Object.fromEntries(Object.entries(moves).map(([path, move]) => [path, one(path, move)]));
}
