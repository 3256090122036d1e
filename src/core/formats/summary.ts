import type { VdbGrid } from './vdb-read';
import { activeBox } from './vdb-write';

/** What `ruddle inspect` prints of a grid. Vectors: of their length; the sum by component. */
export interface GridSummary {
  readonly name: string;
  readonly type: string;
  readonly half: boolean;
  /** False for a type of grid that is not read: nothing is known of its voxels. */
  readonly read: boolean;
  readonly class: string;
  readonly voxelSize: readonly number[] | null;
  readonly transform: { readonly map: string; readonly scale: readonly number[]; readonly translation: readonly number[] } | null;
  readonly activeVoxels: number;
  readonly box: { readonly min: readonly number[]; readonly max: readonly number[] } | null;
  readonly minimum: number | null;
  readonly maximum: number | null;
  readonly sum: readonly number[];
  readonly background: readonly number[];
}

export function summarize(grid: VdbGrid): GridSummary {
  const { tiles, transform } = grid;
  let minimum = Infinity;
  let maximum = -Infinity;
  let activeVoxels = 0;
  const sum: number[] = tiles ? new Array<number>(tiles.components).fill(0) : [];
  const visit = (value: ArrayLike<number>, count: number): void => {
    const size = value.length === 1 ? (value[0] ?? 0) : Math.hypot(value[0] ?? 0, value[1] ?? 0, value[2] ?? 0);
    minimum = Math.min(minimum, size);
    maximum = Math.max(maximum, size);
    activeVoxels += count;
    for (let c = 0; c < value.length; c++) sum[c] = (sum[c] ?? 0) + (value[c] ?? 0) * count;
  };
  if (tiles) {
    const c = tiles.components;
    for (let o = 0; o < tiles.values.length / c; o++) {
      if ((tiles.masks[o >> 3] ?? 0) & (1 << (o & 7))) visit(tiles.values.subarray(o * c, (o + 1) * c), 1);
    }
  }
  for (const t of grid.constantTiles) visit(t.value, t.edge ** 3);
  const box = boxOfAll(grid);
  const kind = grid.metadata['class'];
  return {
    name: grid.name,
    type: grid.type,
    half: grid.half,
    read: tiles !== null,
    class: typeof kind === 'string' ? kind : 'unknown',
    voxelSize: transform ? transform.scale.map(Math.abs) : null,
    transform: transform ? { map: grid.mapType, scale: transform.scale, translation: transform.translation } : null,
    activeVoxels,
    box,
    minimum: activeVoxels > 0 ? minimum : null,
    maximum: activeVoxels > 0 ? maximum : null,
    sum,
    background: tiles?.background ?? [],
  };
}

/** Box of all active voxels, both corners included: those of leaves and those under constant tiles. */
function boxOfAll({ tiles, constantTiles }: VdbGrid): GridSummary['box'] {
  const leaves = tiles && tiles.origins.length > 0 ? activeBox(tiles) : null;
  const boxes = [
    ...(leaves && leaves.count > 0 ? [{ min: leaves.min, max: leaves.max }] : []),
    ...constantTiles.map(({ origin, edge }) => ({ min: origin, max: origin.map((v) => v + edge - 1) })),
  ];
  if (boxes.length === 0) return null;
  const corner = (end: 'min' | 'max', pick: (...v: number[]) => number): number[] =>
    [0, 1, 2].map((a) => boxes.reduce((v, b) => pick(v, b[end][a] ?? 0), end === 'min' ? Infinity : -Infinity));
  return { min: corner('min', Math.min), max: corner('max', Math.max) };
}
