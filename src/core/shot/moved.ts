import { type Followed, type Moment, type Move, atMoment, numberAt, valueOfMove, whyNoValue } from '#core/moves';
import { pinned } from '#core/geometry';
import type { SolveSettings, SourceSettings } from './solve';
import type { ForceFieldSettings, SolidSettings } from './solve-settings';
import { metaAt } from './describe';
import { allMoves, followedBy } from './moves-schema';
import { valueAtPath } from './paths';
import type { ShotFields } from './shot';

/** A source or a solid as it stands at a moment. */
export function movedItem<T extends SourceSettings | SolidSettings | ForceFieldSettings>(item: T, moment: Moment, followed: Followed): T {
  if (Object.keys(item.moves).length === 0) return item;
  const moved = atMoment(item, item.moves, moment, followed);
  if (!('turnsAbout' in item) || !('turnsAbout' in moved)) return moved;
  return { ...moved, shape: pinned(item.shape, moved.shape, item.turnsAbout) };
}

/** Looks that are taken at each move in a frame, and at all moves together in all: a long shot of many moves is looked at less often. */
const A_FRAME = 4;
const MOST_LOOKS = 300_000;

export interface MoveMistakeAt {
  /** `sources[0].moves.heat` */
  readonly path: string;
  /** The frame whose computing would meet it. */
  readonly frame: number;
  readonly message: string;
  /** The range that it leaves, when that is what is wrong. */
  readonly range: readonly [number, number] | null;
}

/**
 * Moves that have no number somewhere in the shot (a division by zero, the root of something negative), or that take their number out of its range; each
 * once, where it happens first. Looked at four times a frame, or as often as fits into a moment.
 */
export function mistakesOfMoves(shot: ShotFields, settings: SolveSettings): MoveMistakeAt[] {
  const moves = allMoves(settings);
  if (moves.length === 0) return [];
  const { followed } = followedBy(settings);
  const open = new Map(moves.map(({ path, text, move }) => [text, watched(settings, path, text, move)]));
  const begin = shot.firstFrame - shot.preRoll;
  const frames = shot.lastFrame - begin + 1;
  const step = Math.max(1 / A_FRAME, (frames * moves.length) / MOST_LOOKS);
  const found: MoveMistakeAt[] = [];
  // The step to a frame begins at the one before it. All moves at one moment: what several read is worked out once.
  for (let n = 0; ; n++) {
    const at = Math.min(shot.lastFrame, begin - 1 + n * step);
    const moment = {
      time: (at - shot.firstFrame) / shot.framesPerSecond,
      firstFrame: shot.firstFrame,
      framesPerSecond: shot.framesPerSecond,
    };
    const frame = Math.max(begin, Math.ceil(at - 1e-9));
    for (const [text, { move, value, range }] of open) {
      const result = valueOfMove(move, value, moment, followed);
      const wrong = Number.isFinite(result) ? outside(result, range) : noValue(whyNoValue(move, value, moment, followed));
      if (wrong === null) continue;
      found.push({
        path: text,
        frame,
        message: `${wrong.replace('%', `at frame ${String(frame)}`)}`,
        range: Number.isFinite(result) ? range : null,
      });
      open.delete(text);
    }
    if (at >= shot.lastFrame || open.size === 0) return found;
  }
}

interface Watched {
  readonly move: Move;
  readonly value: number;
  readonly range: readonly [number, number] | null;
}

function watched(settings: SolveSettings, path: readonly (string | number)[], text: string, move: Move): Watched {
  const at = path.indexOf('moves');
  const meta = metaAt(text.replace('.moves.', '.').replace(/\.[xyz]$/, ''));
  return {
    move,
    value: numberAt(valueAtPath(settings, path.slice(0, at)), String(path[at + 1])) ?? 0,
    range: meta?.min === undefined || meta.max === undefined ? null : [meta.min, meta.max],
  };
}

/** Rounding at a limit is none. */
const SLACK = 1e-9;

function outside(value: number, range: readonly [number, number] | null): string | null {
  if (!range || (value >= range[0] - SLACK && value <= range[1] + SLACK)) return null;
  return `is ${String(Number(value.toPrecision(4)))} %; it can be ${String(range[0])} to ${String(range[1])}`;
}

const noValue = (why: { readonly column: number; readonly reason: string } | null): string =>
  `has no number %${why ? `: ${why.reason} (column ${String(why.column)})` : ''}`;
