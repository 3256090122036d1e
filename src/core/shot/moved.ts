import { type Followed, type Moment, atMoment, numberAt, valueOfMove } from '#core/moves';
import { pinned } from '#core/geometry';
import type { ForceFieldSettings, SolidSettings, SourceSettings } from './settings';
import { allMoves, followedBy } from './moves-schema';
import { valueAtPath } from './paths';
import type { Settings } from './settings';
import type { ShotFields } from './shot';

/** A source or a solid as it stands at a moment. */
export function movedItem<T extends SourceSettings | SolidSettings | ForceFieldSettings>(item: T, moment: Moment, followed: Followed): T {
  if (Object.keys(item.moves).length === 0) return item;
  const moved = atMoment(item, item.moves, moment, followed);
  if (!('turnsAbout' in item) || !('turnsAbout' in moved)) return moved;
  return { ...moved, shape: pinned(item.shape, moved.shape, item.turnsAbout) };
}

const THIN = 4;

/** Moves that have no number somewhere in the shot: a division by zero, the root of something negative. Looked at four times a frame. */
export function mistakesOfMoves(
  shot: ShotFields,
  settings: Settings,
): { readonly path: string; readonly frame: number; readonly message: string }[] {
  const moves = allMoves(settings);
  if (moves.length === 0) return [];
  const { followed } = followedBy(settings);
  const found: { path: string; frame: number; message: string }[] = [];
  const begin = (shot.firstFrame - shot.preRoll - 1) * THIN;
  for (const { path, text, move } of moves) {
    const at = path.indexOf('moves');
    const value = numberAt(valueAtPath(settings, path.slice(0, at)), String(path[at + 1])) ?? 0;
    for (let n = begin; n <= shot.lastFrame * THIN; n++) {
      const frame = n / THIN;
      const moment = {
        time: (frame - shot.firstFrame) / shot.framesPerSecond,
        firstFrame: shot.firstFrame,
        framesPerSecond: shot.framesPerSecond,
      };
      if (Number.isFinite(valueOfMove(move, value, moment, followed))) continue;
      found.push({
        path: text,
        frame: Math.floor(frame),
        message: `has no number at frame ${String(Math.floor(frame))}: a division by zero, or a root or logarithm of what has none`,
      });
      break;
    }
  }
  return found;
}
