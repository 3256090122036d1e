// Particles in the order of their cells (liquid-sort.ts), found by cell: `slotOf` is a table of nx x ny x nz tiles of 8 x 8 x 8 cells from the tile (cx, cy, cz).

/** First and end of the particles in cells x to x1 of a row, x1 in the tile of x. Two globals, so that nothing is allocated. */
export let from: i32 = 0;
export let until: i32 = 0;

@inline
export function cellsOf(x: i32, x1: i32, y: i32, z: i32, slotOf: usize, cx: i32, cy: i32, cz: i32, nx: i32, ny: i32, nz: i32, cellStart: usize): bool {
  const tx = (x >> 3) - cx;
  const ty = (y >> 3) - cy;
  const tz = (z >> 3) - cz;
  if (<u32>tx >= <u32>nx || <u32>ty >= <u32>ny || <u32>tz >= <u32>nz) return false;
  const slot = load<i32>(slotOf + (<usize>((tz * ny + ty) * nx + tx) << 2));
  if (slot < 0) return false;
  const row = cellStart + (<usize>slot << 11) + (<usize>(((z & 7) << 6) | ((y & 7) << 3)) << 2);
  from = load<i32>(row + (<usize>(x & 7) << 2));
  until = load<i32>(row + (<usize>(x1 & 7) << 2), 4);
  return until > from;
}

/** Each item: a tile of cells. Of its 512 cells a byte: 2 where all 27 cells around hold particles, 1 where it does, else 0. */
export function deepCells(
  begin: i32,
  end: i32,
  slots: usize,
  slotOf: usize,
  cx: i32,
  cy: i32,
  cz: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  cellStart: usize,
  deep: usize,
): void {
  for (let t = begin; t < end; ++t) {
    const i0 = (load<i32>(slots + <usize>t * 12) + cx) << 3;
    const j0 = (load<i32>(slots + <usize>t * 12, 4) + cy) << 3;
    const k0 = (load<i32>(slots + <usize>t * 12, 8) + cz) << 3;
    for (let n = 0; n < 512; ++n) {
      const i = i0 + (n & 7);
      const j = j0 + ((n >> 3) & 7);
      const k = k0 + (n >> 6);
      let state: u8 = 0;
      if (cellsOf(i, i, j, k, slotOf, cx, cy, cz, nx, ny, nz, cellStart)) {
        state = 2;
        for (let c = 0; c < 27 && state == 2; ++c) {
          if (!cellsOf(i + (c % 3) - 1, i + (c % 3) - 1, j + ((c / 3) % 3) - 1, k + c / 9 - 1, slotOf, cx, cy, cz, nx, ny, nz, cellStart)) state = 1;
        }
      }
      store<u8>(deep + (<usize>t << 9) + <usize>n, state);
    }
  }
}

/** Whether the cell of a voxel has all its neighbours. */
@inline
export function isDeep(i: i32, j: i32, k: i32, over: f32, slotOf: usize, cx: i32, cy: i32, cz: i32, nx: i32, ny: i32, nz: i32, deep: usize): bool {
  const x = <i32>floor((<f32>i + 0.5) * over);
  const y = <i32>floor((<f32>j + 0.5) * over);
  const z = <i32>floor((<f32>k + 0.5) * over);
  const tx = (x >> 3) - cx;
  const ty = (y >> 3) - cy;
  const tz = (z >> 3) - cz;
  if (<u32>tx >= <u32>nx || <u32>ty >= <u32>ny || <u32>tz >= <u32>nz) return false;
  const slot = load<i32>(slotOf + (<usize>((tz * ny + ty) * nx + tx) << 2));
  return slot >= 0 && load<u8>(deep + (<usize>slot << 9) + <usize>(((z & 7) << 6) | ((y & 7) << 3) | (x & 7))) == 2;
}
