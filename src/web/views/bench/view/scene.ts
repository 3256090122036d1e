import { useMemo } from 'react';
import { type Box3, type Pose, isAnimated, poseOf } from '#core/geometry';
import type { Moment } from '#core/moves';
import { type SolveSettings, type ShapeSettings, type ShotFields, defaultLimit, followedBy, movedItem } from '#core/shot';
import { useSheet, useSolve } from '#web/state';
import type { ViewportScene } from '#web/viewport';
import { type ItemGroup, itemsOf } from '../sheet/items';

interface Dragged {
  readonly group: ItemGroup;
  readonly index: number;
  readonly shape: ShapeSettings;
}

/** What stands in the yard for some settings at a frame (the first one when none is shown), with what is being dragged in its place. */
export function sceneOf(
  settings: SolveSettings,
  fields: ShotFields,
  frame: number | null,
  dragged: Dragged | null = null,
  box: Box3 | null = null,
): ViewportScene {
  const { firstFrame, framesPerSecond } = fields;
  const moment: Moment = { time: ((frame ?? firstFrame) - firstFrame) / framesPerSecond, firstFrame, framesPerSecond };
  const { followed } = followedBy(settings);
  const shapes = (group: ItemGroup): Pose[] =>
    itemsOf(settings, group).flatMap((item, n) => {
      if (item.hidden) return [];
      const shape: ShapeSettings | null =
        dragged?.group === group && dragged.index === n ? dragged.shape : movedItem(item, moment, followed).shape;
      return shape ? [poseOf(shape, moment.time, firstFrame, framesPerSecond)] : [];
    });
  const directions: ViewportScene['directions'][number][] = [];
  for (const source of settings.sources) {
    const { hidden, velocity, shape } = movedItem(source, moment, followed);
    if (!hidden && velocity) directions.push({ of: 'source', from: shape.centre, direction: velocity });
  }
  for (const force of settings.forces.fields) {
    const moved = movedItem(force, moment, followed);
    if (!moved.hidden && moved.kind === 'attraction') directions.push({ of: 'region', from: moved.centre, direction: [0, 0, 0] });
    if (!moved.hidden && moved.kind === 'draught' && moved.shape)
      directions.push({ of: 'region', from: moved.shape.centre, direction: moved.velocity });
  }
  return {
    directions,
    solids: shapes('solids'),
    sources: shapes('sources'),
    regions: shapes('fields'),
    limit: box ?? settings.bounds.limit ?? defaultLimit(settings),
    beside: settings.bounds.beside.map((b) => b.limit),
  };
}

/** Whether anything in it stands elsewhere at another frame. */
export const moves = (settings: SolveSettings): boolean =>
  [...settings.sources, ...settings.solids, ...settings.forces.fields].some(
    (item) => (item.shape !== null && isAnimated(item.shape)) || Object.keys(item.moves).length > 0,
  );

/** Solids, sources and the limit box of the sheet. */
export function useYard(frame: number | null, dragged: Dragged | null, box: Box3 | null): ViewportScene {
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  // A scene whose things stand still is the same one at every frame: the viewport draws them anew only when they change.
  const at = moves(settings) ? frame : null;
  return useMemo(() => sceneOf(settings, fields, at, dragged, box), [settings, fields, at, dragged, box]);
}
