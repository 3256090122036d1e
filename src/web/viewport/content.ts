import type { PointsPreview, Preview } from '#core/formats';
import { type Box3, shapeBounds } from '#core/geometry';
import type { ShownVolume } from './smoke';
import type { StageScene } from './stage';

type Vec3 = readonly [number, number, number];

const AXES = [0, 1, 2] as const;
const each = (pick: (axis: 0 | 1 | 2) => number): [number, number, number] => [pick(0), pick(1), pick(2)];

export const unionOf = (boxes: readonly Box3[]): Box3 | null =>
  boxes.length === 0
    ? null
    : {
        min: each((a) => Math.min(...boxes.map((b) => b.min[a]))),
        max: each((a) => Math.max(...boxes.map((b) => b.max[a]))),
      };

function commonOf(a: Box3, b: Box3): Box3 | null {
  const box = { min: each((n) => Math.max(a.min[n], b.min[n])), max: each((n) => Math.min(a.max[n], b.max[n])) };
  return AXES.every((n) => box.max[n] > box.min[n]) ? box : null;
}

/** Bytes of a preview that are as good as nothing. */
const FAINT = 3;
const known = new WeakMap<Preview, Box3 | null>();

/** Box of the voxels of a preview that hold something, in voxels of the solve; null: none does. */
function filledOf(preview: Preview): Box3 | null {
  const before = known.get(preview);
  if (before !== undefined) return before;
  const [nx, ny, nz] = preview.size;
  const [min, max] = [
    [nx, ny, nz],
    [-1, -1, -1],
  ] as [[number, number, number], [number, number, number]];
  const { data, components } = preview;
  for (let k = 0, at = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++, at += components) {
        if ((data[at] ?? 0) < FAINT) continue;
        if (i < min[0]) min[0] = i;
        if (j < min[1]) min[1] = j;
        if (k < min[2]) min[2] = k;
        if (i > max[0]) max[0] = i;
        if (j > max[1]) max[1] = j;
        if (k > max[2]) max[2] = k;
      }
  const { origin, step } = preview;
  const box = max[0] < 0 ? null : { min: each((a) => origin[a] + min[a] * step), max: each((a) => origin[a] + (max[a] + 1) * step) };
  known.set(preview, box);
  return box;
}

function boxOfVolume({ preview, channel, voxelSize, background }: ShownVolume): Box3 | null {
  const whole = { min: preview.origin, max: each((a) => preview.origin[a] + (preview.size[a] ?? 0) * preview.step) };
  // A byte tells an empty voxel only where the background is nought.
  const box = channel === 'density' && background === 0 ? filledOf(preview) : whole;
  return box && { min: each((a) => box.min[a] * voxelSize), max: each((a) => box.max[a] * voxelSize) };
}

/** What a picture shows. */
export interface Shown {
  readonly scene: StageScene;
  readonly volumes: readonly ShownVolume[];
  readonly points: PointsPreview | null;
  readonly mesh: { readonly min: Vec3; readonly max: Vec3; readonly vertices: number } | null;
}

/**
 * Box of what there is to see: matter, with the sources that give it and the solids near it. Limit boxes are often many times as large. null: there is no matter yet.
 */
export function contentOf({ scene, volumes, points, mesh }: Shown): Box3 | null {
  const matter = unionOf([
    ...volumes.flatMap((v) => boxOfVolume(v) ?? []),
    ...(points && points.count > 0 ? [{ min: points.min, max: points.max }] : []),
    ...(mesh && mesh.vertices > 0 ? [{ min: mesh.min, max: mesh.max }] : []),
  ]);
  if (!matter) return null;
  const near: Box3 = {
    min: each((a) => matter.min[a] - 0.4 * (matter.max[a] - matter.min[a])),
    max: each((a) => matter.max[a] + 0.4 * (matter.max[a] - matter.min[a])),
  };
  const beside = [...scene.sources, ...scene.solids].flatMap(({ shape }) => commonOf(shapeBounds(shape), near) ?? []);
  return unionOf([matter, ...beside]);
}
