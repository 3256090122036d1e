import { RuddleError } from '#core/errors';
import { boxOf, type TriangleMesh } from './mesh';

/** What an imported mesh is like, and what was mended about it. */
export interface MeshNotes {
  readonly vertices: number;
  readonly triangles: number;
  /** Edges of one triangle only: holes, or the rim of a sheet. */
  readonly openEdges: number;
  /** Edges of more than two triangles. */
  readonly crowdedEdges: number;
  /** Triangles without area, or with the same three corners as another: taken out. */
  readonly dropped: number;
  /** Triangles that were turned so that their piece is the right way out. */
  readonly turned: number;
  readonly pieces: number;
  /** An open surface without an inside: a thin wall is what it can be. */
  readonly sheet: boolean;
  /** Volume that it encloses, cubic file units; of a sheet it means nothing. */
  readonly volume: number;
}

/** Most triangles that are read. */
export const MOST_TRIANGLES = 5e6;

/** Vertices of a mesh that are kept, and of each old one which. */
export interface Tidied {
  readonly mesh: TriangleMesh;
  /** Old vertex that each new one comes from. */
  readonly from: Uint32Array;
  readonly notes: MeshNotes;
}

/**
 * Makes triangles fit to be voxelised: joins equal vertices, takes out triangles without area and twins, turns each piece so that its triangles agree
 * and its volume is positive. Vertices are joined when they lie together in `otherPoses` too. Throws `file-invalid` when nothing is left or a coordinate is not a number.
 */
export function tidy({ positions, triangles }: TriangleMesh, file: string, otherPoses: readonly Float32Array[] = []): Tidied {
  const refuse = (reason: string): never => {
    throw new RuddleError('file-invalid', `${file}: ${reason}.`, { file, reason });
  };
  const given = triangles.length / 3;
  if (given === 0 || positions.length === 0) refuse('it has no triangles');
  if (given > MOST_TRIANGLES) refuse(`it has ${String(given)} triangles; ${String(MOST_TRIANGLES)} are the most`);
  for (let n = 0; n < positions.length; n++) {
    if (!Number.isFinite(positions[n])) refuse(`vertex ${String(Math.floor(n / 3))} is not a number`);
  }
  const vertices = positions.length / 3;
  for (let n = 0; n < triangles.length; n++) {
    if ((triangles[n] ?? 0) >= vertices) refuse(`triangle ${String(Math.floor(n / 3))} has a vertex that does not exist`);
  }
  const box = boxOf(positions);
  const extent = Math.max(box.max[0] - box.min[0], box.max[1] - box.min[1], box.max[2] - box.min[2]);
  if (!(extent > 0)) refuse('all its vertices are one point');
  const kept = keep(positions, triangles, join([positions, ...otherPoses], extent * 1e-6), extent);
  if (kept.length === 0) refuse('none of its triangles has an area');
  // Only vertices that a triangle uses, in the order in which they are met.
  const place = new Int32Array(vertices).fill(-1);
  const from: number[] = [];
  const index = new Uint32Array(kept.length);
  for (let n = 0; n < kept.length; n++) {
    const v = kept[n] ?? 0;
    if ((place[v] ?? -1) < 0) {
      place[v] = from.length;
      from.push(v);
    }
    index[n] = place[v] ?? 0;
  }
  const tidied = new Float32Array(from.length * 3);
  from.forEach((v, n) => {
    for (let a = 0; a < 3; a++) tidied[3 * n + a] = positions[3 * v + a] ?? 0;
  });
  const mesh = { positions: tidied, triangles: index };
  const { openEdges, crowdedEdges, pieces, turned, volume, sheet } = orient(mesh);
  return {
    mesh,
    from: Uint32Array.from(from),
    notes: {
      vertices: from.length,
      triangles: index.length / 3,
      openEdges,
      crowdedEdges,
      dropped: given - index.length / 3,
      turned,
      pieces,
      sheet,
      volume,
    },
  };
}

/** First vertex at each place (in every pose), by rounding to a lattice that is far finer than anything that matters. */
function join(poses: readonly Float32Array[], grain: number): Uint32Array {
  const count = (poses[0]?.length ?? 0) / 3;
  const first = new Uint32Array(count);
  const seen = new Map<string, number>();
  for (let v = 0; v < count; v++) {
    let key = '';
    for (const p of poses) for (let a = 0; a < 3; a++) key += `${String(Math.round((p[3 * v + a] ?? 0) / grain))},`;
    const found = seen.get(key);
    if (found === undefined) seen.set(key, v);
    first[v] = found ?? v;
  }
  return first;
}

/** Triangles with an area and no twin, on joined vertices. */
function keep(p: Float32Array, triangles: Uint32Array, first: Uint32Array, extent: number): Uint32Array {
  const out = new Uint32Array(triangles.length);
  const twins = new Set<string>();
  const least = (extent * 1e-7) ** 2;
  const checkTwins = triangles.length < 3e6;
  let n = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [first[triangles[t] ?? 0] ?? 0, first[triangles[t + 1] ?? 0] ?? 0, first[triangles[t + 2] ?? 0] ?? 0];
    if (a === b || b === c || c === a) continue;
    const e = (i: number, j: number, x: number): number => (p[3 * j + x] ?? 0) - (p[3 * i + x] ?? 0);
    const [ux, uy, uz, vx, vy, vz] = [e(a, b, 0), e(a, b, 1), e(a, b, 2), e(a, c, 0), e(a, c, 1), e(a, c, 2)];
    const area = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx);
    if (area < least) continue;
    if (checkTwins) {
      const key = [a, b, c].sort((i, j) => i - j).join();
      if (twins.has(key)) continue;
      twins.add(key);
    }
    out.set([a, b, c], n);
    n += 3;
  }
  return out.slice(0, n);
}

interface Oriented {
  openEdges: number;
  crowdedEdges: number;
  pieces: number;
  turned: number;
  volume: number;
  sheet: boolean;
}

/** Turns triangles so that neighbours agree, then each closed piece so that it is the right way out. In place. */
function orient({ positions: p, triangles: t }: TriangleMesh): Oriented {
  const faces = t.length / 3;
  const vertices = p.length / 3;
  // Edges as numbers, sorted: equal ones are neighbours. Two floats' worth of integers: exact up to 2^53.
  const edges = new Float64Array(t.length);
  for (let f = 0; f < faces; f++) {
    for (let e = 0; e < 3; e++) {
      const [a, b] = [t[3 * f + e] ?? 0, t[3 * f + ((e + 1) % 3)] ?? 0];
      edges[3 * f + e] = Math.min(a, b) * vertices + Math.max(a, b);
    }
  }
  const order = Uint32Array.from(edges, (_v, n) => n).sort((a, b) => (edges[a] ?? 0) - (edges[b] ?? 0));
  // Across an edge of exactly two triangles: the other one's half edge.
  const across = new Int32Array(t.length).fill(-1);
  let openEdges = 0;
  let crowdedEdges = 0;
  for (let n = 0; n < order.length;) {
    let m = n + 1;
    while (m < order.length && edges[order[m] ?? 0] === edges[order[n] ?? 0]) m++;
    const [e, g] = [order[n] ?? 0, order[n + 1] ?? 0];
    if (m - n === 1) openEdges++;
    else if (m - n === 2) {
      across[e] = g;
      across[g] = e;
    } else crowdedEdges++;
    n = m;
  }
  const piece = new Int32Array(faces).fill(-1);
  const flipped = new Uint8Array(faces);
  const volumes: number[] = [];
  const areas: number[] = [];
  const vectors: [number, number, number][] = [];
  const rims: number[] = [];
  const stack: number[] = [];
  for (let seed = 0; seed < faces; seed++) {
    if ((piece[seed] ?? 0) >= 0) continue;
    const id = volumes.length;
    const vector: [number, number, number] = [0, 0, 0];
    let [volume, area, rim] = [0, 0, 0];
    const origin = t[3 * seed] ?? 0;
    piece[seed] = id;
    stack.push(seed);
    for (let f = stack.pop(); f !== undefined; f = stack.pop()) {
      const turn = flipped[f] ?? 0;
      const corner = (i: number, a: number): number => (p[3 * (t[3 * (f ?? 0) + i] ?? 0) + a] ?? 0) - (p[3 * origin + a] ?? 0);
      const [a, b, c] = [0, turn ? 2 : 1, turn ? 1 : 2].map((i) => [corner(i, 0), corner(i, 1), corner(i, 2)] as const) as [
        readonly [number, number, number],
        readonly [number, number, number],
        readonly [number, number, number],
      ];
      const u = [b[0] - a[0], b[1] - a[1], b[2] - a[2]] as const;
      const v = [c[0] - a[0], c[1] - a[1], c[2] - a[2]] as const;
      const normal = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]] as const;
      volume += (a[0] * normal[0] + a[1] * normal[1] + a[2] * normal[2]) / 6;
      area += Math.hypot(...normal) / 2;
      for (const x of [0, 1, 2] as const) vector[x] += normal[x] / 2;
      for (let e = 0; e < 3; e++) {
        const other = across[3 * f + e] ?? -1;
        if (other < 0) {
          rim++;
          continue;
        }
        const g = Math.floor(other / 3);
        if ((piece[g] ?? 0) >= 0) continue;
        piece[g] = id;
        // Neighbours that agree run along their edge in opposite directions.
        const agrees = (t[3 * f + e] ?? 0) === (t[3 * g + (((other % 3) + 1) % 3)] ?? 0);
        flipped[g] = agrees ? turn : 1 - turn;
        stack.push(g);
      }
    }
    volumes.push(volume);
    areas.push(area);
    vectors.push(vector);
    rims.push(rim);
  }
  // A sheet: most of its area looks one way, or it has a rim and encloses next to nothing.
  const thin = volumes.map((v, n) => {
    const area = areas[n] ?? 0;
    return (rims[n] ?? 0) > 0 && (Math.hypot(...(vectors[n] ?? [0, 0, 0])) > 0.2 * area || Math.abs(v) < 0.003 * area ** 1.5);
  });
  let turned = 0;
  let volume = 0;
  for (let f = 0; f < faces; f++) {
    const id = piece[f] ?? 0;
    const inside = !thin[id] && (volumes[id] ?? 0) < 0 ? 1 : 0;
    if ((flipped[f] ?? 0) === inside) continue;
    const b = t[3 * f + 1] ?? 0;
    t[3 * f + 1] = t[3 * f + 2] ?? 0;
    t[3 * f + 2] = b;
    turned++;
  }
  for (let n = 0; n < volumes.length; n++) if (!thin[n]) volume += Math.abs(volumes[n] ?? 0);
  const sheetArea = areas.reduce((s, a, n) => s + (thin[n] ? a : 0), 0);
  return { openEdges, crowdedEdges, pieces: volumes.length, turned, volume, sheet: sheetArea > 0.5 * areas.reduce((s, a) => s + a, 0) };
}
