// Friction and bounce of the liquid at walls, on the grid, by the push that the pressure gave (Coulomb's law; Newton's restitution).
import { SX, SP, TILES, TILE_SHIFT, T_BASE, T_I, T_J, T_K } from './layout';

/**
 * Voxels from a wall within which the liquid is held back by it: as one body, or a slab would be cut along its lowest layer, which alone would stop. See
 * docs/methods/liquid.md.
 */
const REACH: f32 = 5;

let wallX: f32 = 0;
let wallY: f32 = 0;
let wallZ: f32 = 0;

/** Distance of walls at a place of a tile (voxels from its corner), and the direction out of them. */
@inline
function wallIn(corners: usize, x: f32, y: f32, z: f32): f32 {
  const i = min<i32>(7, <i32>x);
  const j = min<i32>(7, <i32>y);
  const k = min<i32>(7, <i32>z);
  const q = corners + (<usize>(k * 81 + j * 9 + i) << 2);
  const a = x - <f32>i;
  const b = y - <f32>j;
  const c = z - <f32>k;
  const x00 = load<f32>(q) + (load<f32>(q, 4) - load<f32>(q)) * a;
  const x10 = load<f32>(q, 36) + (load<f32>(q, 40) - load<f32>(q, 36)) * a;
  const x01 = load<f32>(q, 324) + (load<f32>(q, 328) - load<f32>(q, 324)) * a;
  const x11 = load<f32>(q, 360) + (load<f32>(q, 364) - load<f32>(q, 360)) * a;
  const y0 = x00 + (x10 - x00) * b;
  const y1 = x01 + (x11 - x01) * b;
  wallZ = y1 - y0;
  wallY = (x10 - x00) * (1 - c) + (x11 - x01) * c;
  const near = (load<f32>(q, 4) - load<f32>(q)) * (1 - b) + (load<f32>(q, 40) - load<f32>(q, 36)) * b;
  const far = (load<f32>(q, 328) - load<f32>(q, 324)) * (1 - b) + (load<f32>(q, 364) - load<f32>(q, 360)) * b;
  wallX = near * (1 - c) + far * c;
  return y0 + (y1 - y0) * c;
}

/** A component at the middle of another one's face: the mean of the four faces around it that are known. `along`, `across`: strides of the two. */
@inline
function beside(field: usize, known: usize, o: usize, along: usize, across: usize): f32 {
  let sum: f32 = 0;
  let count: f32 = 0;
  for (let n: usize = 0; n < 4; ++n) {
    const q = o + ((n & 1) != 0 ? across : 0) - ((n & 2) != 0 ? along : 0);
    if (load<u8>(known + q) != 1) continue;
    sum += load<f32>(field + (q << 2));
    count += 1;
  }
  return count > 0 ? sum / count : 0;
}

/** A field at a place of the window, voxels from its first voxel's corner, between the middles of cells. */
@inline
function between(field: usize, x: f32, y: f32, z: f32, sx: usize, sp: usize): f32 {
  const fx = floor<f32>(x - 0.5);
  const fy = floor<f32>(y - 0.5);
  const fz = floor<f32>(z - 0.5);
  const a = x - <f32>0.5 - fx;
  const b = y - <f32>0.5 - fy;
  const c = z - <f32>0.5 - fz;
  const o = field + (<usize>(<i32>(sp + sx + 4) + <i32>fx + <i32>fy * <i32>sx + <i32>fz * <i32>sp) << 2);
  const row = sx << 2;
  const plane = sp << 2;
  const y0 = (load<f32>(o) * (1 - a) + load<f32>(o, 4) * a) * (1 - b) + (load<f32>(o + row) * (1 - a) + load<f32>(o + row, 4) * a) * b;
  const p = o + plane;
  const y1 = (load<f32>(p) * (1 - a) + load<f32>(p, 4) * a) * (1 - b) + (load<f32>(p + row) * (1 - a) + load<f32>(p + row, 4) * a) * b;
  return y0 * (1 - c) + y1 * c;
}

/**
 * Each item: a slot. What friction and bounce make of the low faces along `axis`, into `into`: those within the wall's reach that are known; the others as they are. `fields`: u v w after the
 * pressure, before it, what is known of them, and the walls' own velocity at the middles of cells (0: they stand), pointers each. `pressure`: p dt / (rho h), m/s. `gentle`: impulses up to this are
 * no impact, m/s.
 */
export function rubWalls(
  begin: i32,
  end: i32,
  ctx: usize,
  sdf: usize,
  fields: usize,
  pressure: usize,
  axis: i32,
  friction: f32,
  bounce: f32,
  gentle: f32,
  nx: i32,
  ny: i32,
  nz: i32,
  into: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const corners = <usize>load<u32>(sdf + (<usize>t << 2));
    const own = <usize>load<u32>(fields + (<usize>axis << 2));
    for (let n: usize = 0; n < 512; ++n) {
      const i = <i32>(n & 7);
      const j = <i32>((n >> 3) & 7);
      const k = <i32>(n >> 6);
      const o = base + <usize>k * sp + <usize>j * sx + <usize>i;
      const was = load<f32>(own + (o << 2));
      store<f32>(into + (o << 2), was);
      if (corners == 0 || load<u8>(<usize>load<u32>(fields + 24 + (<usize>axis << 2)) + o) != 1) continue;
      const x = <f32>i + (axis == 0 ? <f32>0 : <f32>0.5);
      const y = <f32>j + (axis == 1 ? <f32>0 : <f32>0.5);
      const z = <f32>k + (axis == 2 ? <f32>0 : <f32>0.5);
      const d = wallIn(corners, x, y, z);
      if (d >= REACH || d < -1) continue;
      const g = sqrt<f32>(wallX * wallX + wallY * wallY + wallZ * wallZ);
      if (g < <f32>0.1) continue;
      const px = wallX / g;
      const py = wallY / g;
      const pz = wallZ / g;
      const along: usize = axis == 0 ? <usize>1 : axis == 1 ? sx : sp;
      let vx: f32 = 0;
      let vy: f32 = 0;
      let vz: f32 = 0;
      let jx: f32 = 0;
      let jy: f32 = 0;
      let jz: f32 = 0;
      for (let c = 0; c < 3; ++c) {
        const after = <usize>load<u32>(fields + (<usize>c << 2));
        const before = <usize>load<u32>(fields + 12 + (<usize>c << 2));
        const known = <usize>load<u32>(fields + 24 + (<usize>c << 2));
        const across: usize = c == 0 ? <usize>1 : c == 1 ? sx : sp;
        const a = c == axis ? was : beside(after, known, o, along, across);
        const b = c == axis ? load<f32>(before + (o << 2)) : beside(before, known, o, along, across);
        const wall = <usize>load<u32>(fields + 36 + (<usize>c << 2));
        const w: f32 = wall == 0 ? 0 : load<f32>(wall + (o << 2));
        if (c == 0) {
          vx = a - w;
          jx = a - b;
        } else if (c == 1) {
          vy = a - w;
          jy = a - b;
        } else {
          vz = a - w;
          jz = a - b;
        }
      }
      const push = jx * px + jy * py + jz * pz;
      const speed = vx * px + vy * py + vz * pz;
      const tx = vx - speed * px;
      const ty = vy - speed * py;
      const tz = vz - speed * pz;
      const slip = sqrt<f32>(tx * tx + ty * ty + tz * tz);
      // What stands on the liquid beyond the reach presses it onto the wall as well.
      const up = REACH - max<f32>(0, d);
      const wx = <f32>load<i32>(rec, T_I) + x + up * px;
      const wy = <f32>load<i32>(rec, T_J) + y + up * py;
      const wz = <f32>load<i32>(rec, T_K) + z + up * pz;
      const inside = wx > 1 && wy > 1 && wz > 1 && wx < <f32>((nx << 3) - 1) && wy < <f32>((ny << 3) - 1) && wz < <f32>((nz << 3) - 1);
      const above: f32 = inside ? max<f32>(0, between(pressure, wx, wy, wz, sx, sp)) / REACH : 0;
      const normal = max<f32>(0, push) + above;
      const left: f32 = slip > 0 ? max<f32>(0, 1 - (friction * normal) / slip) : 0;
      const back: f32 = push > gentle ? bounce * push : 0;
      const p = axis == 0 ? px : axis == 1 ? py : pz;
      const tangent = axis == 0 ? tx : axis == 1 ? ty : tz;
      store<f32>(into + (o << 2), was + tangent * (left - 1) + back * p);
    }
  }
}
