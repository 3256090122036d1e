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

/**
 * What there is to see in several pictures. It only grows: a lens that followed every frame would breathe while it is played. The same object as long as it is the same.
 */
export function useContentOfAll(pictures: readonly Picture[]): Box3 | null {
  const before = useRef<Box3 | null>(null);
  const all = unionOf([...(before.current ? [before.current] : []), ...pictures.flatMap((p) => boxOf(p) ?? [])]);
  if (all && !(before.current && same(before.current, all))) before.current = all;
  return before.current;
}

export const useContent = (picture: Picture): Box3 | null => useContentOfAll([picture]);
