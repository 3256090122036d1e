import type { Box3, Distance } from '#core/geometry';
import { type Vec3, hash3 } from '#core/math';

/**
 * Places where liquid begins within a source: of a stream one on each line through its opening, where the line enters the shape; without a direction one in each
 * share of its inside. They take turns in an order that no eye can follow, so that what comes is even at every moment.
 */
export interface Fibres {
  /** x, y, z each, metres from the middle of the shape's box. */
  readonly places: Float64Array;
  /** Part of its line's (or share's) cross-section that the shape covers, above 0 up to 1. */
  readonly covers: Float64Array;
  /** Sum of the covers. */
  readonly total: number;
  /** Metres between the lines, or along a share's edge. */
  readonly spacing: number;
}

/** Looks across a line's square, each way; of what is so thin that none of them meets it, more. */
const LOOKS = [4, 16, 64] as const;
/** Most lines or shares of one source: a larger one has them further apart. */
const MOST = 40_000;

interface Found {
  readonly at: Vec3;
  readonly cover: number;
  readonly turn: number;
}

function inTurns(found: readonly Found[], spacing: number): Fibres {
  const order = [...found].sort((a, b) => a.turn - b.turn);
  return {
    places: Float64Array.from(order.flatMap((f) => f.at)),
    covers: Float64Array.from(order, (f) => f.cover),
    total: order.reduce((n, f) => n + f.cover, 0),
    spacing,
  };
}

/** How far apart `count` things of a size lie, so that there are not too many. */
const spaced = (spacing: number, extent: number, dimensions: 2 | 3): number =>
  Math.max(spacing, extent / Math.floor(MOST ** (1 / dimensions)));

/** Of a stream along a direction of length 1, `spacing` metres apart. */
export function fibresAlong(inside: Distance, bounds: Box3, direction: Vec3, spacing: number): Fibres {
  let fibres = withLooks(inside, bounds, direction, spacing, LOOKS[0]);
  for (const looks of LOOKS.slice(1)) if (fibres.total === 0) fibres = withLooks(inside, bounds, direction, spacing, looks);
  return fibres;
}

function withLooks(inside: Distance, { min, max }: Box3, direction: Vec3, spacing: number, looks: number): Fibres {
  const [a, b] = across(direction);
  const middle: Vec3 = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2];
  const half = (axis: Vec3): number =>
    ([0, 1, 2] as const).reduce<number>((sum, n) => sum + (Math.abs(axis[n]) * (max[n] - min[n])) / 2, 0);
  const [wide, high, long] = [half(a), half(b), half(direction)];
  const step = spaced(spacing, 2 * Math.max(wide, high), 2);
  const enter = (u: number, v: number): number | null => {
    for (let t = -long - 0.01 * step; t <= long;) {
      const [x, y, z] = [0, 1, 2].map(
        (n) => (middle[n] ?? 0) + (a[n] ?? 0) * u + (b[n] ?? 0) * v + (direction[n] ?? 0) * t,
      ) as unknown as Vec3;
      const d = inside(x, y, z);
      if (d <= 1e-4 * step) return t;
      // Far from an imported shape its distance is no number: then in small steps.
      t += Number.isFinite(d) ? Math.max(d, 0.02 * step) : 0.25 * step;
    }
    return null;
  };
  const found: Found[] = [];
  const [m, n] = [Math.ceil(wide / step + 0.5), Math.ceil(high / step + 0.5)];
  for (let j = -n; j < n; j++) {
    for (let i = -m; i < m; i++) {
      let [hits, su, sv, st] = [0, 0, 0, 0];
      for (let c = 0; c < looks * looks; c++) {
        const u = (i + ((c % looks) + 0.5) / looks) * step;
        const v = (j + (Math.floor(c / looks) + 0.5) / looks) * step;
        if (Math.abs(u) > wide || Math.abs(v) > high) continue;
        const t = enter(u, v);
        if (t === null) continue;
        hits++;
        su += u;
        sv += v;
        st += t;
      }
      if (hits === 0) continue;
      const at = ([0, 1, 2] as const).map((k) => (a[k] * su + b[k] * sv + direction[k] * st) / hits) as unknown as Vec3;
      found.push({ at, cover: hits / looks ** 2, turn: hash3(i, j, 0, 71) });
    }
  }
  return inTurns(found, step);
}

/** Of a source without a direction: shares of its inside, `spacing` metres apart. */
export function fibresWithin(inside: Distance, { min, max }: Box3, spacing: number): Fibres {
  const size: Vec3 = [max[0] - min[0], max[1] - min[1], max[2] - min[2]];
  const step = spaced(spacing, Math.max(...size), 3);
  const middle: Vec3 = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2];
  const found: Found[] = [];
  const count = size.map((s) => Math.ceil(s / 2 / step)) as unknown as Vec3;
  const look = step / 2;
  for (let k = -count[2]; k < count[2]; k++) {
    for (let j = -count[1]; j < count[1]; j++) {
      for (let i = -count[0]; i < count[0]; i++) {
        let [cover, x, y, z] = [0, 0, 0, 0];
        for (let c = 0; c < 8; c++) {
          const at = [i, j, k].map((v, a) => (v + ((c >> a) & 1 ? 0.75 : 0.25)) * step) as unknown as Vec3;
          const part = Math.max(0, Math.min(1, 0.5 - inside(at[0] + middle[0], at[1] + middle[1], at[2] + middle[2]) / look)) / 8;
          cover += part;
          x += part * at[0];
          y += part * at[1];
          z += part * at[2];
        }
        if (cover > 1 / 64) found.push({ at: [x / cover, y / cover, z / cover], cover, turn: hash3(i, j, k, 73) });
      }
    }
  }
  return inTurns(found, step);
}

/** Two directions across one, of length 1 and at right angles. */
function across(d: Vec3): readonly [Vec3, Vec3] {
  const size = d.map(Math.abs);
  const axis = size.indexOf(Math.min(...size));
  const dot = d[axis] ?? 0;
  const raw = ([0, 1, 2] as const).map((n) => (n === axis ? 1 : 0) - dot * d[n]) as unknown as Vec3;
  const length = Math.hypot(...raw);
  const a: Vec3 = [raw[0] / length, raw[1] / length, raw[2] / length];
  return [a, [d[1] * a[2] - d[2] * a[1], d[2] * a[0] - d[0] * a[2], d[0] * a[1] - d[1] * a[0]]];
}
