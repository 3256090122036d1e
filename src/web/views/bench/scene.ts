import { useMemo } from 'react';
import type { Box3 } from '#core/geometry';
import type { Moment } from '#core/moves';
import { type Settings, type ShapeSettings, type ShotFields, defaultLimit, followedBy, movedItem } from '#core/shot';
import { useSheet } from '#web/state';
import type { ViewportScene } from '#web/viewport';
import type { ItemGroup } from './items';

interface Dragged {
  readonly group: ItemGroup;
  readonly index: number;
  readonly shape: ShapeSettings;
}

/** What stands in the yard for some settings at a frame (the first one when none is shown), with what is being dragged in its place. */
export function sceneOf(
  settings: Settings,
  fields: ShotFields,
  frame: number | null,
  dragged: Dragged | null = null,
  box: Box3 | null = null,
): ViewportScene {
  const { firstFrame, framesPerSecond } = fields;
  const moment: Moment = { time: ((frame ?? firstFrame) - firstFrame) / framesPerSecond, firstFrame, framesPerSecond };
  const { followed } = followedBy(settings);
  const shapes = (group: ItemGroup): ShapeSettings[] =>
    settings[group].flatMap((item, n) => {
      if (item.hidden) return [];
      return [dragged?.group === group && dragged.index === n ? dragged.shape : movedItem(item, moment, followed).shape];
    });
  return { solids: shapes('solids'), sources: shapes('sources'), limit: box ?? settings.bounds.limit ?? defaultLimit(settings) };
}

/** Whether anything in it stands elsewhere at another frame. */
export const moves = (settings: Settings): boolean =>
  [...settings.sources, ...settings.solids].some((item) => Object.keys(item.moves).length > 0);

/** Solids, sources and the limit box of the sheet. */
export function useYard(frame: number | null, dragged: Dragged | null, box: Box3 | null): ViewportScene {
  const settings = useSheet((s) => s.settings);
  const fields = useSheet((s) => s.fields);
  // A scene whose things stand still is the same one at every frame: the viewport draws them anew only when they change.
  const at = moves(settings) ? frame : null;
  return useMemo(() => sceneOf(settings, fields, at, dragged, box), [settings, fields, at, dragged, box]);
}
