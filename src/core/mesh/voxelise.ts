import { boxOf, type DistanceGrid, type TriangleMesh } from './mesh';
import type { WindingTree } from './winding';

export interface VoxeliseOptions {
  /** Between samples. */
  readonly spacing: number;
  /** Around the surface, in which the distance is exact. */
  readonly band: number;
  /** Most samples; a mesh that would need more gets wider spacing. */
  readonly most?: number;
}

export interface Voxelised {
  readonly grid: DistanceGrid;
  /** Nearest triangle of each sample, -1 where none was looked for. */
  readonly nearest: Int32Array;
  /** Spacing that was asked for over the one that was used: below 1 when it had to be widened. */
  readonly fineness: number;
}

/** 24 million samples: 96 MB of distances and as much of nearest triangles. */
const MOST_SAMPLES = 24e6;
/** Samples around the band: what is sampled between them needs neighbours. */
const MARGIN = 2;

/**
 * Signed distance of a mesh on a lattice: exact near its triangles (each writes the samples of its neighbourhood), the sign by winding number there,
 * both carried outwards by fast sweeping (Zhao 2005; the further values are of first order). Of a closed mesh winding numbers are counted along rows;
 * of one with holes, and of rows that come out wrong by rounding, the tree is asked (50 times as long a sample).
 */
export function voxelise(
  mesh: TriangleMesh,
  closed: boolean,
  tree: () => WindingTree,
  { spacing, band, most = MOST_SAMPLES }: VoxeliseOptions,
): Voxelised {
  const { min, max } = boxOf(mesh.positions);
  let h = spacing;
  const layout = (): { origin: [number, number, number]; size: [number, number, number]; width: number } => {
    // A triangle writes what lies within the band, at least the eight samples around any of its points.
    const width = Math.max(band, 1.75 * h);
    const pad = Math.ceil(width / h) + MARGIN;
    const low = (a: 0 | 1 | 2): number => Math.floor(min[a] / h) - pad;
    const count = (a: 0 | 1 | 2): number => Math.ceil(max[a] / h) + pad - low(a) + 1;
    return { origin: [low(0) * h, low(1) * h, low(2) * h], size: [count(0), count(1), count(2)], width };
  };
  let made = layout();
  while (made.size[0] * made.size[1] * made.size[2] > most) {
    h *= 1.15;
    made = layout();
  }
  const { origin, size, width } = made;
  const samples = size[0] * size[1] * size[2];
  const values = new Float32Array(samples).fill(Infinity);
  const nearest = new Int32Array(samples).fill(-1);
  const grid: DistanceGrid = { origin, spacing: h, size, values };
  scatter(mesh, grid, nearest, width);
  const known = new Uint8Array(samples);
  const [nx, ny, nz] = size;
  const counts = closed ? rowCounts(mesh, grid) : null;
  for (let row = 0; row < ny * nz; row++) {
    const [j, k] = [row % ny, Math.floor(row / ny)];
    const begin = row * nx;
    let wound = 0;
    if (counts) for (let i = 0; i < nx; i++) wound += counts[begin + i] ?? 0;
    const counted = counts !== null && wound === 0;
    for (let n = begin; n < begin + nx; n++) {
      if (counted) wound += counts[n] ?? 0;
      const d = values[n] ?? Infinity;
      if (d === Infinity) continue;
      known[n] = 1;
      const w = counted ? wound : tree().at(origin[0] + (n - begin) * h, origin[1] + j * h, origin[2] + k * h);
      values[n] = w > 0.5 ? -Math.sqrt(d) : Math.sqrt(d);
    }
  }
  sweep(grid, nearest, known);
  if (close(grid, known)) sweep(grid, nearest, known);
  return { grid, nearest, fineness: spacing / h };
}

/** Each triangle writes its squared distance to the samples within the band of it. */
function scatter(
  { positions, triangles }: TriangleMesh,
  { origin, spacing: h, size, values }: DistanceGrid,
  nearest: Int32Array,
  band: number,
): void {
  const [nx, ny, nz] = size;
  const [ox, oy, oz] = origin;
  const limit = band * band;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [3 * (triangles[t] ?? 0), 3 * (triangles[t + 1] ?? 0), 3 * (triangles[t + 2] ?? 0)];
    const [ax, ay, az] = [positions[a] ?? 0, positions[a + 1] ?? 0, positions[a + 2] ?? 0];
    const [bx, by, bz] = [positions[b] ?? 0, positions[b + 1] ?? 0, positions[b + 2] ?? 0];
    const [cx, cy, cz] = [positions[c] ?? 0, positions[c + 1] ?? 0, positions[c + 2] ?? 0];
    const [ux, uy, uz, vx, vy, vz] = [bx - ax, by - ay, bz - az, cx - ax, cy - ay, cz - az];
    let [mx, my, mz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    const length = Math.sqrt(mx * mx + my * my + mz * mz);
    if (length > 0) [mx, my, mz] = [mx / length, my / length, mz / length];
    const first = (lo: number, o: number): number => Math.max(0, Math.ceil((lo - band - o) / h));
    const last = (hi: number, o: number, count: number): number => Math.min(count - 1, Math.floor((hi + band - o) / h));
    const [i0, i1] = [first(Math.min(ax, bx, cx), ox), last(Math.max(ax, bx, cx), ox, nx)];
    const [j0, j1] = [first(Math.min(ay, by, cy), oy), last(Math.max(ay, by, cy), oy, ny)];
    const [k0, k1] = [first(Math.min(az, bz, cz), oz), last(Math.max(az, bz, cz), oz, nz)];
    // Inner products that every sample needs (Ericson, Real-Time Collision Detection, 2005).
    const uu = ux * ux + uy * uy + uz * uz;
    const uv = ux * vx + uy * vy + uz * vz;
    const vv = vx * vx + vy * vy + vz * vz;
    for (let k = k0; k <= k1; k++) {
      const pz = oz + k * h - az;
      for (let j = j0; j <= j1; j++) {
        const py = oy + j * h - ay;
        // Of a row only the part between the two planes at the band's distance.
        const rest = my * py + mz * pz;
        let [from, to] = [i0, i1];
        if (Math.abs(mx) > 1e-6) {
          const [p, q] = [(-band - rest) / mx, (band - rest) / mx];
          from = Math.max(i0, Math.ceil((Math.min(p, q) + ax - ox) / h));
          to = Math.min(i1, Math.floor((Math.max(p, q) + ax - ox) / h));
        } else if (Math.abs(rest) > band) continue;
        let n = (k * ny + j) * nx + from;
        for (let i = from; i <= to; i++, n++) {
          const px = ox + i * h - ax;
          // Nearest point of the triangle in its own coordinates: a + s u + r v.
          const d1 = ux * px + uy * py + uz * pz;
          const d2 = vx * px + vy * py + vz * pz;
          let s = 0;
          let r = 0;
          if (d1 > 0 || d2 > 0) {
            const d3 = d1 - uu;
            const d4 = d2 - uv;
            const d5 = d1 - uv;
            const d6 = d2 - vv;
            const vc = d1 * d4 - d3 * d2;
            const vb = d5 * d2 - d1 * d6;
            const va = d3 * d6 - d5 * d4;
            if (d3 >= 0 && d4 <= d3) s = 1;
            else if (d6 >= 0 && d5 <= d6) r = 1;
            else if (vc <= 0 && d1 >= 0 && d3 <= 0) s = d1 / (d1 - d3);
            else if (vb <= 0 && d2 >= 0 && d6 <= 0) r = d2 / (d2 - d6);
            else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
              r = (d4 - d3) / (d4 - d3 + (d5 - d6));
              s = 1 - r;
            } else {
              const over = 1 / (va + vb + vc);
              s = vb * over;
              r = vc * over;
            }
          }
          const ex = px - s * ux - r * vx;
          const ey = py - s * uy - r * vy;
          const ez = pz - s * uz - r * vz;
          const d = ex * ex + ey * ey + ez * ez;
          if (d <= limit && d < (values[n] ?? 0)) {
            values[n] = d;
            nearest[n] = t / 3;
          }
        }
      }
    }
  }
}

/** Rows are looked at beside the samples by these parts of the spacing: vertices on lattice planes are common, and none lies there. */
const ASIDE = [1.37e-5, 2.11e-5] as const;

/** By how much the winding number changes between the sample before (along x) and each sample. */
function rowCounts({ positions: p, triangles: t }: TriangleMesh, { origin, spacing: h, size }: DistanceGrid): Int8Array {
  const [nx, ny, nz] = size;
  const [ox, oy, oz] = [origin[0], origin[1] + ASIDE[0] * h, origin[2] + ASIDE[1] * h];
  const counts = new Int8Array(nx * ny * nz);
  for (let m = 0; m < t.length; m += 3) {
    const [a, b, c] = [3 * (t[m] ?? 0), 3 * (t[m + 1] ?? 0), 3 * (t[m + 2] ?? 0)];
    const [ay, az] = [p[a + 1] ?? 0, p[a + 2] ?? 0];
    const [by, bz] = [p[b + 1] ?? 0, p[b + 2] ?? 0];
    const [cy, cz] = [p[c + 1] ?? 0, p[c + 2] ?? 0];
    const area = (by - ay) * (cz - az) - (bz - az) * (cy - ay);
    if (area === 0) continue;
    const [ax, bx, cx] = [p[a] ?? 0, p[b] ?? 0, p[c] ?? 0];
    const k1 = Math.floor((Math.max(az, bz, cz) - oz) / h);
    const j1 = Math.floor((Math.max(ay, by, cy) - oy) / h);
    for (let k = Math.ceil((Math.min(az, bz, cz) - oz) / h); k <= k1; k++) {
      const z = oz + k * h;
      for (let j = Math.ceil((Math.min(ay, by, cy) - oy) / h); j <= j1; j++) {
        const y = oy + j * h;
        // Of an edge both triangles work out the same number: its ends are taken in the same order.
        const u = across(by, bz, cy, cz, y, z);
        const v = across(cy, cz, ay, az, y, z);
        const w = across(ay, az, by, bz, y, z);
        if (!((u > 0 && v > 0 && w > 0) || (u < 0 && v < 0 && w < 0))) continue;
        const sum = u + v + w;
        const x = (u * ax + v * bx + w * cx) / sum;
        const i = Math.min(nx - 1, Math.max(0, Math.ceil((x - ox) / h)));
        // Going along x into the solid: its outside looks back.
        const n = (k * ny + j) * nx + i;
        counts[n] = (counts[n] ?? 0) + (area < 0 ? 1 : -1);
      }
    }
  }
  return counts;
}

/** Twice the area of the triangle of two ends and a point, signed; opposite for swapped ends, to the last bit. */
function across(py: number, pz: number, qy: number, qz: number, y: number, z: number): number {
  if (py < qy || (py === qy && pz <= qz)) return (py - y) * (qz - z) - (pz - z) * (qy - y);
  return -((qy - y) * (pz - z) - (qz - z) * (py - y));
}

/** Whether triangles have no rim: every edge is run along as often one way as the other. Winding numbers are whole then. */
export function isClosed(t: Uint32Array, vertices: number): boolean {
  const edges = new Float64Array(t.length);
  const ways = new Int8Array(t.length);
  for (let n = 0; n < t.length; n++) {
    const [a, b] = [t[n] ?? 0, t[n % 3 === 2 ? n - 2 : n + 1] ?? 0];
    edges[n] = Math.min(a, b) * vertices + Math.max(a, b);
    ways[n] = a < b ? 1 : -1;
  }
  const order = Uint32Array.from(edges, (_v, n) => n).sort((a, b) => (edges[a] ?? 0) - (edges[b] ?? 0));
  let sum = 0;
  for (let n = 0; n < order.length; n++) {
    sum += ways[order[n] ?? 0] ?? 0;
    if (edges[order[n] ?? 0] !== edges[order[n + 1] ?? -1] && sum !== 0) return false;
  }
  return true;
}

/** Carries known signed distances outwards. */
export function spread(grid: DistanceGrid, known: Uint8Array): void {
  sweep(grid, new Int32Array(grid.values.length).fill(-1), known);
}

/** Carries distance, sign and nearest triangle outwards: eight sweeps, one for each order of the axes' directions. */
function sweep({ spacing: h, size, values }: DistanceGrid, nearest: Int32Array, known: Uint8Array): void {
  const [nx, ny, nz] = size;
  const [sy, sz] = [nx, nx * ny];
  for (let pass = 0; pass < 8; pass++) {
    const [dx, dy, dz] = [pass & 1 ? -1 : 1, pass & 2 ? -1 : 1, pass & 4 ? -1 : 1];
    for (let kk = 0; kk < nz; kk++) {
      const k = dz > 0 ? kk : nz - 1 - kk;
      for (let jj = 0; jj < ny; jj++) {
        const j = dy > 0 ? jj : ny - 1 - jj;
        for (let ii = 0; ii < nx; ii++) {
          const i = dx > 0 ? ii : nx - 1 - ii;
          const n = k * sz + j * sy + i;
          if (known[n]) continue;
          // The nearer neighbour of each axis; the nearest of the three lends its sign.
          const xn = i === 0 || (i < nx - 1 && Math.abs(values[n + 1] ?? 0) < Math.abs(values[n - 1] ?? 0)) ? n + 1 : n - 1;
          const yn = j === 0 || (j < ny - 1 && Math.abs(values[n + sy] ?? 0) < Math.abs(values[n - sy] ?? 0)) ? n + sy : n - sy;
          const zn = k === 0 || (k < nz - 1 && Math.abs(values[n + sz] ?? 0) < Math.abs(values[n - sz] ?? 0)) ? n + sz : n - sz;
          const x = Math.abs(values[xn] ?? 0);
          const y = Math.abs(values[yn] ?? 0);
          const z = Math.abs(values[zn] ?? 0);
          const a = Math.min(x, y, z);
          if (a === Infinity) continue;
          const best = a === x ? xn : a === y ? yn : zn;
          const c = Math.max(x, y, z);
          const b = Math.max(Math.min(x, y), Math.min(Math.max(x, y), z));
          let d = a + h;
          if (d > b) {
            d = (a + b + Math.sqrt(Math.max(0, 2 * h * h - (a - b) * (a - b)))) / 2;
            if (d > c) d = (a + b + c + Math.sqrt(Math.max(0, (a + b + c) ** 2 - 3 * (a * a + b * b + c * c - h * h)))) / 3;
          }
          if (d < Math.abs(values[n] ?? Infinity)) {
            values[n] = (values[best] ?? 0) < 0 ? -d : d;
            nearest[n] = nearest[best] ?? -1;
          }
        }
      }
    }
  }
}

/** Where the sign changes and no triangle is near, a hole was closed by the winding number: there is a surface now, half a sample away. Whether there is one. */
function close({ spacing: h, size, values }: DistanceGrid, known: Uint8Array): boolean {
  const [nx, ny, nz] = size;
  const steps = [1, nx, nx * ny] as const;
  let found = false;
  const ends = [nx, ny, nz] as const;
  const at = [0, 0, 0];
  let n = 0;
  for (at[2] = 0; (at[2] ?? 0) < nz; at[2] = (at[2] ?? 0) + 1) {
    for (at[1] = 0; (at[1] ?? 0) < ny; at[1] = (at[1] ?? 0) + 1) {
      for (at[0] = 0; (at[0] ?? 0) < nx; at[0] = (at[0] ?? 0) + 1, n++) {
        for (const a of [0, 1, 2] as const) {
          if ((at[a] ?? 0) + 1 >= ends[a]) continue;
          const [v, w] = [values[n] ?? 0, values[n + steps[a]] ?? 0];
          if (v < 0 === w < 0 || Math.abs(v) + Math.abs(w) < 1.5 * h) continue;
          values[n] = Math.sign(v) * Math.min(Math.abs(v), h / 2);
          values[n + steps[a]] = Math.sign(w) * Math.min(Math.abs(w), h / 2);
          known[n] = known[n + steps[a]] = 1;
          found = true;
        }
      }
    }
  }
  return found;
}
