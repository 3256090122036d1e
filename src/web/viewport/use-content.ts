import { useRef } from 'react';
import type { PointsPreview } from '#core/formats';
import type { Box3 } from '#core/geometry';
import { contentOf, unionOf } from './content';
import type { ShownMesh } from './mesh';
import type { ShownVolume } from './smoke';
import type { StageScene } from './stage';

interface Picture {
  readonly scene: StageScene;
  readonly frame: ShownVolume | null;
  readonly beside?: readonly ShownVolume[];
  readonly points?: PointsPreview | null;
  readonly mesh?: ShownMesh | null;
}

const boxOf = ({ scene, frame, beside = [], points = null, mesh = null }: Picture): Box3 | null =>
  contentOf({ scene, volumes: frame ? [frame, ...beside] : beside, points, mesh: mesh?.mesh ?? null });

const same = (a: Box3, b: Box3): boolean => [0, 1, 2].every((n) => a.min[n] === b.min[n] && a.max[n] === b.max[n]);

/** A box that grew gets room to grow on: a picture that is framed anew with every frame would drift. */
const ROOM = 0.15;
function withRoom(before: Box3, now: Box3): Box3 {
  const room = (n: 0 | 1 | 2): number => ROOM * (now.max[n] - now.min[n]);
  const min = ([0, 1, 2] as const).map((n) => (now.min[n] < before.min[n] ? now.min[n] - room(n) : now.min[n]));
  const max = ([0, 1, 2] as const).map((n) => (now.max[n] > before.max[n] ? now.max[n] + room(n) : now.max[n]));
  return { min: min as [number, number, number], max: max as [number, number, number] };
}

/**
 * What there is to see in several pictures. It only grows: a lens that followed every frame would breathe while it is played. The same object as long as it is the same.
 */
export function useContentOfAll(pictures: readonly Picture[]): Box3 | null {
  const before = useRef<Box3 | null>(null);
  const all = unionOf([...(before.current ? [before.current] : []), ...pictures.flatMap((p) => boxOf(p) ?? [])]);
  if (all && !before.current) before.current = all;
  else if (all && before.current && !same(before.current, all)) before.current = withRoom(before.current, all);
  return before.current;
}

export const useContent = (picture: Picture): Box3 | null => useContentOfAll([picture]);
