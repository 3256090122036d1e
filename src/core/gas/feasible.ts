import { limitWindow } from '#core/flow';
import { type Box3, shapeBounds } from '#core/geometry';
import { TILE, type Window, windowOf } from '#core/grid';
import { windowBytes } from './fields';
import { type GasOptions } from './options';

/** A flag each is held for all tiles of the limit box, whatever the bounds do: more of them are no computation that anybody means. */
const MOST_TILES = 2 ** 27;

/** What of `options` decides about it. */
type Feasibility = Pick<GasOptions, 'voxelSize' | 'bounds' | 'matter' | 'sources'>;

const windowIn = ({ min, max }: Box3, h: number, limit: Window): Window => {
  const low = (v: number, o: number, n: number): number => Math.min(o + n - TILE, Math.max(o, Math.floor(v / h)));
  const high = (v: number, o: number, n: number): number => Math.max(o + 1, Math.min(o + n, Math.ceil(v / h)));
  const { ox, oy, oz, nx, ny, nz } = limit;
  return windowOf(
    [low(min[0], ox, nx), low(min[1], oy, ny), low(min[2], oz, nz)],
    [high(max[0], ox, nx), high(max[1], oy, ny), high(max[2], oz, nz)],
  );
};

/**
 * The least bytes that bounds will take, known before anything is computed: fixed bounds are as large as their limit box, adaptive ones at least as large as
 * each source that stands still. Infinity where not even the tiles could be told apart.
 */
export function leastBytes(options: Feasibility): number {
  const limit = limitWindow(options);
  const tiles = (limit.nx / TILE) * (limit.ny / TILE) * (limit.nz / TILE);
  if (!(tiles <= MOST_TILES)) return Infinity;
  if (options.bounds.mode !== 'adaptive') return windowBytes(limit, options.matter);
  const still = options.sources.filter((s) => !Object.keys(s.moves).some((path) => path.startsWith('shape.')) && s.contact === null);
  const { min, max } = options.bounds.limit;
  const outside = (box: Box3): boolean => ([0, 1, 2] as const).some((a) => box.max[a] <= min[a] || box.min[a] >= max[a]);
  return Math.max(
    0,
    ...still
      .map((s) => shapeBounds(s.shape))
      .filter((box) => !outside(box))
      .map((box) => windowBytes(windowIn(box, options.voxelSize, limit), options.matter)),
  );
}
