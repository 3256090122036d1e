import { RECORD_WORDS, type Level } from '#core/grid';
import type { Team } from '#kernels';

type Velocity = readonly [Float32Array, Float32Array, Float32Array];
type Visit = (at: number, i: number, j: number, k: number) => void;
type Value = (at: number, i: number, j: number, k: number) => number;

/** Plain scalar versions, in doubles, of what the kernels do; written from the definitions, not from the kernels. */
export interface Scene {
  readonly status: Uint8Array;
  /** Index steps along x, y, z. */
  readonly steps: readonly [number, number, number];
  /** Open fractions -x +x -y +y -z +z of a cell in a tile with cut faces, else null. */
  /** What a value lost on the way forth and back; of axis 3 (cells) or of faces. */
  roundTrip: (
    v: Velocity,
    axis: number,
    source: Float32Array,
    forward: Float32Array,
    at: number,
    i: number,
    j: number,
    k: number,
    c: number,
  ) => number;
  carriedError: (
    v: Velocity,
    axis: number,
    source: Float32Array,
    forward: Float32Array,
    error: Float32Array,
    at: number,
    i: number,
    j: number,
    k: number,
    c: number,
  ) => number;
  cubic: (v: Velocity, axis: number, source: Float32Array, at: number, i: number, j: number, k: number, c: number) => number;
  cutAt: (at: number) => readonly number[] | null;
  each: (visit: Visit) => void;
  /** Over unknown cells. */
  sum: (value: Value) => number;
  sumAll: (value: Value) => number;
  /** Part of the cells in which a field agrees, absolutely; the rest may sit on the other side of a choice. */
  mostly: (got: Float32Array, want: Value, tolerance: number) => number;
  diagonal: (at: number) => number;
  neighbours: (x: Float32Array, at: number) => number;
  poisson: (x: Float32Array, at: number) => number;
  divergence: (v: Velocity, at: number) => number;
  closedFace: (u: Float32Array, at: number) => number;
  extendedCell: (d: Float32Array, at: number, ambient: number) => number;
  advectCell: (v: Velocity, s: Float32Array, at: number, i: number, j: number, k: number, c: number) => number;
  correctCell: (v: Velocity, s: Float32Array, forward: Float32Array, at: number, i: number, j: number, k: number, c: number) => number;
  advectFace: (v: Velocity, axis: 0 | 1 | 2, at: number, i: number, j: number, k: number, c: number) => number;
  correctFace: (v: Velocity, axis: 0 | 1 | 2, forward: Float32Array, at: number, i: number, j: number, k: number, c: number) => number;
}

export function sceneOf(team: Team, level: Level): Scene {
  const { sx, sp, window: w } = level;
  const steps = [1, sx, sp] as const;
  const counts = [w.nx, w.ny, w.nz];
  const status = team.bytes(level.status, (w.nz + 2) * sp + 16);
  const records = team.pointers(level.records, level.count * RECORD_WORDS);
  const origin = sp + sx + 4;
  const cuts = new Map<number, Float32Array>();
  const each = (visit: Visit): void => {
    for (let r = 0; r < records.length; r += RECORD_WORDS) {
      for (let n = 0; n < 512; n++) {
        const [a, b, c] = [n & 7, (n >> 3) & 7, n >> 6];
        visit(records[r]! + c * sp + b * sx + a, records[r + 1]! + a, records[r + 2]! + b, records[r + 3]! + c);
      }
    }
  };
  for (let r = 0; r < records.length; r += RECORD_WORDS) {
    const block = records[r + 4] === 0 ? null : team.floats(records[r + 4]!, 6 * 512);
    for (let n = 0; n < 512 && block; n++) {
      const at = records[r]! + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      cuts.set(at, Float32Array.from([0, 1, 2, 3, 4, 5].map((f) => block[f * 512 + n]!)));
    }
  }
  const cutAt = (at: number): readonly number[] | null => {
    const c = cuts.get(at);
    return c ? [...c] : null;
  };
  const fraction = (at: number, face: number): number => cuts.get(at)?.[face] ?? 1;
  const beside = (at: number, face: number): number => at + (face & 1 ? 1 : -1) * steps[(face >> 1) as 0 | 1 | 2];
  const faces = [0, 1, 2, 3, 4, 5];
  const diagonal = (at: number): number => (status[at] === 1 ? faces.reduce((d, f) => d + fraction(at, f) * status[beside(at, f)]!, 0) : 0);
  const neighbours = (x: Float32Array, at: number): number => faces.reduce((s, f) => s + fraction(at, f) * x[beside(at, f)]!, 0);

  /** Trilinear value at index coordinates, held inside the halo. */
  const corners = (f: ArrayLike<number>, p: readonly number[]): { value: number; low: number; high: number; known: boolean } => {
    const q = p.map((v, a) => Math.fround(Math.min(Math.max(v, -1), counts[a]! - 0.001)));
    const b = q.map(Math.floor);
    let [value, low, high, known] = [0, Infinity, -Infinity, q.every((v, a) => Math.abs(v - p[a]!) < 1e-6)];
    for (let n = 0; n < 8; n++) {
      const d = [n & 1, (n >> 1) & 1, n >> 2];
      const at = origin + b.reduce((s, v, a) => s + (v + d[a]!) * steps[a as 0 | 1 | 2], 0);
      const weight = q.reduce((s, v, a) => s * (d[a] ? v - b[a]! : 1 - v + b[a]!), 1);
      value += weight * f[at]!;
      low = Math.min(low, f[at]!);
      high = Math.max(high, f[at]!);
      known &&= status[at] === 1;
    }
    return { value, low, high, known };
  };
  const trace = (v: Velocity, p: readonly number[], here: readonly number[], c: number): number[] => {
    const m = p.map((x, a) => x - 0.5 * c * here[a]!);
    const at = v.map(
      (f, a) =>
        corners(
          f,
          m.map((x, b) => x - (a === b ? 0 : 0.5)),
        ).value,
    );
    return p.map((x, a) => x - c * at[a]!);
  };
  const atCell = (v: Velocity, at: number): number[] => v.map((f, a) => 0.5 * (f[at]! + f[at + steps[a as 0 | 1 | 2]]!));
  const atFace = (v: Velocity, axis: number, at: number): number[] =>
    v.map((f, a) => {
      if (a === axis) return f[at]!;
      const [o, d] = [steps[axis as 0 | 1 | 2], steps[a as 0 | 1 | 2]];
      return 0.25 * (f[at]! + f[at - o]! + f[at + d]! + f[at + d - o]!);
    });
  const correct = (
    v: Velocity,
    source: Float32Array,
    forward: Float32Array,
    at: number,
    p: readonly number[],
    here: number[],
    off: readonly number[],
    c: number,
  ): number => {
    const back = corners(
      source,
      trace(v, p, here, c).map((x, a) => x - off[a]!),
    );
    const ahead = trace(v, p, here, -c).map((x, a) => x - off[a]!);
    const there = corners(forward, ahead);
    if (!back.known || !there.known) return forward[at]!;
    return Math.min(Math.max(forward[at]! + 0.5 * (source[at]! - there.value), back.low), back.high);
  };
  const halves = [0.5, 0.5, 0.5] as const;
  const faceOff = (axis: number): number[] => [0, 1, 2].map((a) => (a === axis ? 0 : 0.5));
  const place = (i: number, j: number, k: number, off: readonly number[]): number[] => [i + off[0]!, j + off[1]!, k + off[2]!];

  /** Where a value of the axis' lattice (3: cells) comes from (c > 0) or goes to, in index coordinates of it. */
  const way = (v: Velocity, axis: number, at: number, i: number, j: number, k: number, c: number): number[] => {
    const off = axis === 3 ? [...halves] : faceOff(axis);
    return trace(v, place(i, j, k, off), axis === 3 ? atCell(v, at) : atFace(v, axis, at), c).map((x, a) => x - off[a]!);
  };
  /** Through four values, monotone, at t between the middle two: Fritsch and Carlson's limit on slopes of central differences. */
  const monotone = ([a, b, c, d]: readonly number[], t: number): number => {
    const rise = c! - b!;
    const limited = (slope: number): number => (slope * rise <= 0 ? 0 : Math.sign(rise) * Math.min(Math.abs(slope), 3 * Math.abs(rise)));
    const [p, q] = [limited((c! - a!) / 2), limited((d! - b!) / 2)];
    // Hermite's basis.
    return b! * (2 * t ** 3 - 3 * t ** 2 + 1) + p * (t ** 3 - 2 * t ** 2 + t) + c! * (3 * t ** 2 - 2 * t ** 3) + q * (t ** 3 - t ** 2);
  };

  return {
    status,
    steps,
    cutAt,
    roundTrip: (v, axis, source, forward, at, i, j, k, c) => {
      const there = corners(forward, way(v, axis, at, i, j, k, -c));
      return there.known ? source[at]! - there.value : 0;
    },
    carriedError: (v, axis, source, forward, error, at, i, j, k, c) => {
      const from = way(v, axis, at, i, j, k, c);
      const here = corners(source, from);
      if (!here.known) return forward[at]!;
      return Math.min(Math.max(forward[at]! + 0.5 * corners(error, from).value, here.low), here.high);
    },
    cubic: (v, axis, source, at, i, j, k, c) => {
      const from = way(v, axis, at, i, j, k, c);
      const here = corners(source, from);
      const b = from.map(Math.floor);
      if (!here.known || b.some((x, a) => x < 1 || x >= counts[a]! - 2)) return here.value;
      const t = from.map((x, a) => x - b[a]!);
      const value = (x: number, y: number, z: number): number => source[origin + (b[0]! + x) + (b[1]! + y) * sx + (b[2]! + z) * sp]!;
      const four = [-1, 0, 1, 2];
      const line = (y: number, z: number): number =>
        monotone(
          four.map((x) => value(x, y, z)),
          t[0]!,
        );
      // The limit makes the order matter: along x, then z, then y.
      const rows = four.map((y) =>
        monotone(
          four.map((z) => line(y, z)),
          t[2]!,
        ),
      );
      return Math.min(Math.max(monotone(rows, t[1]!), here.low), here.high);
    },
    each,
    sum: (value) => {
      let s = 0;
      each((at, i, j, k) => {
        if (status[at] === 1) s += value(at, i, j, k);
      });
      return s;
    },
    sumAll: (value) => {
      let s = 0;
      each((at, i, j, k) => {
        s += value(at, i, j, k);
      });
      return s;
    },
    mostly: (got, want, tolerance) => {
      let [good, all] = [0, 0];
      each((at, i, j, k) => {
        all++;
        if (Math.abs(got[at]! - want(at, i, j, k)) <= tolerance) good++;
      });
      return good / all;
    },
    diagonal,
    neighbours,
    poisson: (x, at) => (diagonal(at) > 0 ? diagonal(at) * x[at]! - neighbours(x, at) : 0),
    divergence: (v, at) =>
      status[at] === 1 ? faces.reduce((s, f) => s + (f & 1 ? -1 : 1) * fraction(at, f) * v[f >> 1]![f & 1 ? beside(at, f) : at]!, 0) : 0,
    closedFace: (u, at) => {
      if (!cuts.has(at) || fraction(at, 0) > 0) return u[at]!;
      const solid = (q: number): boolean => status[q] === 0 && status[q - 1] === 0;
      if (!solid(at)) return 0;
      const open = faces.map((f) => beside(at, f)).filter((q) => !solid(q));
      return open.length > 0 ? open.reduce((s, q) => s + u[q]!, 0) / open.length : 0;
    },
    extendedCell: (d, at, ambient) => {
      if (!cuts.has(at) || status[at] !== 0) return d[at]!;
      const fluid = faces.map((f) => beside(at, f)).filter((q) => status[q] !== 0);
      return fluid.length > 0 ? fluid.reduce((s, q) => s + d[q]!, 0) / fluid.length : ambient;
    },
    advectCell: (v, s, at, i, j, k, c) =>
      corners(
        s,
        trace(v, place(i, j, k, halves), atCell(v, at), c).map((x) => x - 0.5),
      ).value,
    correctCell: (v, s, forward, at, i, j, k, c) => correct(v, s, forward, at, place(i, j, k, halves), atCell(v, at), halves, c),
    advectFace: (v, axis, at, i, j, k, c) => {
      const off = faceOff(axis);
      return corners(
        v[axis],
        trace(v, place(i, j, k, off), atFace(v, axis, at), c).map((x, a) => x - off[a]!),
      ).value;
    },
    correctFace: (v, axis, forward, at, i, j, k, c) => {
      const off = faceOff(axis);
      return correct(v, v[axis], forward, at, place(i, j, k, off), atFace(v, axis, at), off, c);
    },
  };
}

/** Component of a periodic lattice of float32 x 4 at a position, trilinear. */
export function sampleLattice(values: Float32Array, n: number, p: readonly number[], component: number): number {
  const q = p.map((v) => v - n * Math.floor(v / n));
  const b = q.map((v) => Math.min(n - 1, Math.floor(v)));
  let sum = 0;
  for (let c = 0; c < 8; c++) {
    const d = [c & 1, (c >> 1) & 1, c >> 2];
    const weight = q.reduce((s, v, a) => s * (d[a] ? v - b[a]! : 1 - v + b[a]!), 1);
    const at = ((b[2]! + d[2]!) * (n + 1) + b[1]! + d[1]!) * (n + 1) + b[0]! + d[0]!;
    sum += weight * values[at * 4 + component]!;
  }
  return sum;
}
