// The table of marching cubes, made from its rule instead of copied: on each face of a cell lines run between the edges that are crossed; where the corners of a face
// alternate, one of two pairs of lines, as the face's own values say. Lines join to loops, and loops are cut into triangles whose new sides lie on no face: the next
// cell has no such side, so that every side belongs to two triangles. Corners and edges are numbered as in src/kernels/assembly/surface-polygons.ts.

type Point = readonly [number, number, number];

const cornerOf = (c: number): Point => [c & 1, (c >> 1) & 1, c >> 2];

/** The two corners of an edge. */
export const EDGES: readonly (readonly [number, number])[] = Array.from({ length: 12 }, (_v, e) => {
  const axis = e >> 2;
  const [low, high] = [e & 1, (e >> 1) & 1];
  const first = axis === 0 ? 2 * low + 4 * high : axis === 1 ? low + 4 * high : low + 2 * high;
  return [first, first + (1 << axis)];
});

/** Corners of the faces -x +x -y +y -z +z, around: (0,0), (1,0), (1,1), (0,1) in the two other axes. */
export const FACES: readonly (readonly [number, number, number, number])[] = Array.from({ length: 6 }, (_v, f) => {
  const axis = f >> 1;
  const base = f & 1 ? 1 << axis : 0;
  const [u, v] = axis === 0 ? [2, 4] : axis === 1 ? [1, 4] : [1, 2];
  return [base, base + u, base + u + v, base + v];
});

const edgeBetween = (a: number, b: number): number => EDGES.findIndex(([p, q]) => (p === a && q === b) || (p === b && q === a));

/** Faces that an edge lies on. */
const FACES_OF = EDGES.map(([a, b]) => FACES.flatMap((corners, f) => (corners.includes(a) && corners.includes(b) ? [f] : [])));
const shareFace = (a: number, b: number): boolean => (FACES_OF[a] ?? []).some((f) => FACES_OF[b]?.includes(f));

const middleOf = (edge: number): Point => {
  const [a, b] = (EDGES[edge] ?? [0, 0]).map(cornerOf) as [Point, Point];
  return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2];
};
const minus = (a: Point, b: Point): Point => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a: Point, b: Point): Point => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const dot = (a: Point, b: Point): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** Whether a face's corners alternate. */
export const alternates = (state: number, face: number): boolean => {
  const [a, b, c, d] = (FACES[face] ?? []).map((corner) => (state >> corner) & 1);
  return a === c && b === d && a !== b;
};

/** The lines of a face, each from edge to edge with the inside on its right, seen from outside of the cell. `joined`: the inside of an alternating face is one. */
function linesOf(state: number, face: number, joined: boolean): [number, number][] {
  const corners = FACES[face] ?? [0, 0, 0, 0];
  const axis = face >> 1;
  const outwards: Point = [0, 1, 2].map((a) => (a === axis ? (face & 1 ? 1 : -1) : 0)) as [number, number, number];
  const inside = (n: number): boolean => ((state >> (corners[n & 3] ?? 0)) & 1) === 1;
  const lines: [number, number][] = [];
  const put = (a: number, b: number, corner: number, isInside: boolean): void => {
    const [p, q] = [middleOf(a), middleOf(b)];
    const side = dot(cross(minus(q, p), minus(cornerOf(corner), p)), outwards);
    lines.push(side > 0 === isInside ? [b, a] : [a, b]);
  };
  const side = (n: number): number => edgeBetween(corners[n & 3] ?? 0, corners[(n + 1) & 3] ?? 0);
  if (alternates(state, face)) {
    // Two corners are cut off: those outside, when the inside is one.
    for (let n = 0; n < 4; n++) if (inside(n) !== joined) put(side(n + 3), side(n), corners[n] ?? 0, inside(n));
    return lines;
  }
  const crossed = [0, 1, 2, 3].filter((n) => inside(n) !== inside(n + 1));
  const [first, second] = crossed;
  if (first === undefined || second === undefined) return lines;
  // Any corner on one side of the line.
  const corner = (first + 1) & 3;
  put(side(first), side(second), corners[corner] ?? 0, inside(corner));
  return lines;
}

/** Closed loops of edges of a cell. `joined`: of each face. */
export function loopsOf(state: number, joined: (face: number) => boolean): number[][] {
  const next = new Map<number, number>();
  for (let face = 0; face < 6; face++) for (const [a, b] of linesOf(state, face, joined(face))) next.set(a, b);
  const loops: number[][] = [];
  while (next.size > 0) {
    const [start] = next.keys();
    if (start === undefined) break;
    const loop: number[] = [];
    for (let edge: number | undefined = start; edge !== undefined && next.has(edge);) {
      loop.push(edge);
      const to: number | undefined = next.get(edge);
      next.delete(edge);
      edge = to;
    }
    loops.push(loop);
  }
  return loops;
}

/** Triangles of a loop without a new side on a face; null: there are none. */
function cut(loop: readonly number[]): number[][] | null {
  const n = loop.length;
  const at = (k: number): number => loop[k] ?? 0;
  const allowed = (a: number, b: number): boolean => b - a === 1 || (a === 0 && b === n - 1) || !shareFace(at(a), at(b));
  const known = new Map<number, number[][] | null>();
  const between = (a: number, b: number): number[][] | null => {
    if (b - a < 2) return [];
    const key = a * 16 + b;
    const before = known.get(key);
    if (before !== undefined) return before;
    let best: number[][] | null = null;
    for (let c = a + 1; c < b && best === null; c++) {
      if (!allowed(a, c) || !allowed(c, b)) continue;
      const [left, right] = [between(a, c), between(c, b)];
      if (left && right) best = [...left, [at(a), at(c), at(b)], ...right];
    }
    known.set(key, best);
    return best;
  };
  return between(0, n - 1);
}

export interface CellPolygons {
  /** Edges of each triangle; 12 and up: the middle of a loop. */
  readonly triangles: readonly (readonly number[])[];
  /** Loops with a middle of their own. */
  readonly middles: readonly (readonly number[])[];
}

/** What a cell holds, its normals outwards. */
export function polygonsOf(state: number, joined: (face: number) => boolean): CellPolygons {
  const triangles: number[][] = [];
  const middles: number[][] = [];
  for (const loop of loopsOf(state, joined)) {
    const own = cut(loop);
    if (own) triangles.push(...own);
    else {
      const middle = 12 + middles.length;
      loop.forEach((edge, n) => triangles.push([edge, loop[(n + 1) % loop.length] ?? 0, middle]));
      middles.push([...loop]);
    }
  }
  return { triangles, middles };
}

/** Faces of a case that alternate, in order. */
export const alternatingFaces = (state: number): number[] => [0, 1, 2, 3, 4, 5].filter((f) => alternates(state, f));

/**
 * As the kernels read it: of each case where its variants begin (u32) and its alternating faces (u8, a bit each), 8 bytes; of each variant (a bit for each such face:
 * joined) where it lies (u32); each variant: triangles, middles, the edges of the triangles, and of each middle how many edges and which.
 */
export function polygonTable(): Uint8Array {
  const cases = Array.from({ length: 256 }, (_v, state) => {
    const faces = alternatingFaces(state);
    const variants = Array.from({ length: 1 << faces.length }, (_w, bits) =>
      polygonsOf(state, (f) => ((bits >> faces.indexOf(f)) & 1) === 1),
    );
    return { faces, variants };
  });
  const heads = cases.reduce((n, c) => n + c.variants.length, 0);
  const bytes: number[] = [];
  const starts: number[] = [];
  const body = 256 * 8 + 4 * heads;
  for (const { variants } of cases) {
    for (const { triangles, middles } of variants) {
      starts.push(body + bytes.length);
      bytes.push(triangles.length, middles.length, ...triangles.flat(), ...middles.flatMap((m) => [m.length, ...m]));
    }
  }
  const out = new Uint8Array(body + bytes.length);
  const view = new DataView(out.buffer);
  let variant = 0;
  cases.forEach(({ faces, variants }, state) => {
    view.setUint32(8 * state, 2048 + 4 * variant, true);
    out[8 * state + 4] = faces.reduce((bits, f) => bits | (1 << f), 0);
    for (let n = 0; n < variants.length; n++, variant++) view.setUint32(2048 + 4 * variant, starts[variant] ?? 0, true);
  });
  out.set(bytes, body);
  return out;
}
