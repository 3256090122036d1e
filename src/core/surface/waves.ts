import { GRAVITY } from '#core/units';
import { mulberry32 } from '#core/math';
import type { SurfaceMesh } from './polygons';

/** Small waves on a skin: a spectrum of straight waves with wind, depth and scale. */
export interface WaveOptions {
  /** Metres, root mean square of the whole spectrum. */
  readonly height: number;
  /** Longest and shortest wave, metres. */
  readonly longest: number;
  readonly shortest: number;
  /** m/s, and the way it blows in degrees from x towards z. */
  readonly wind: number;
  readonly towards: number;
  /** Metres of liquid under the waves: shallow ones are slower. */
  readonly depth: number;
  /** m/s at which the liquid churns too much to carry them. */
  readonly churn: number;
  readonly seed: number;
}

/** Waves of the sum: as many lengths times as many ways. */
const LENGTHS = 12;
const WAYS = 5;

interface Wave {
  readonly x: number;
  readonly z: number;
  readonly speed: number;
  readonly phase: number;
  readonly height: number;
}

/**
 * The waves of a spectrum: lengths evenly in their logarithm, heights by Phillips' form (k^-4 exp(-1 / (k L)^2), L = wind^2 / g; one over the length squared without
 * wind), ways spread by the squared cosine about the wind's, speeds by w^2 = g k tanh(k depth).
 */
export function wavesOf(o: WaveOptions): readonly Wave[] {
  const chance = mulberry32(o.seed);
  const long = o.wind ** 2 / GRAVITY;
  const made: (Wave & { readonly energy: number })[] = [];
  for (let n = 0; n < LENGTHS; n++) {
    const length = o.longest * (o.shortest / o.longest) ** ((n + chance()) / LENGTHS);
    const k = (2 * Math.PI) / length;
    for (let w = 0; w < WAYS; w++) {
      const off = ((w + chance()) / WAYS - 0.5) * Math.PI;
      const angle = (o.towards * Math.PI) / 180 + off;
      // A part of k^-4 over a ring of k dk and equal steps of log k.
      const energy = k ** -2 * (long > 0 ? Math.exp(-1 / (k * long) ** 2) : 1) * Math.cos(off) ** 2;
      made.push({
        x: k * Math.cos(angle),
        z: k * Math.sin(angle),
        speed: Math.sqrt(GRAVITY * k * Math.tanh(k * o.depth)),
        phase: 2 * Math.PI * chance(),
        height: 0,
        energy,
      });
    }
  }
  const sum = made.reduce((s, w) => s + w.energy, 0);
  // A sine of height a has a root mean square of a / sqrt(2).
  return made.map(({ energy, ...wave }) => ({ ...wave, height: sum > 0 ? o.height * Math.sqrt((2 * energy) / sum) : 0 }));
}

/** Moves vertices along their normals, where the skin looks up and is calm; normals are turned with the waves' slope. */
export function addWaves(mesh: SurfaceMesh, o: WaveOptions, time: number): SurfaceMesh {
  const waves = wavesOf(o);
  const places = mesh.places.slice();
  const normals = mesh.normals.slice();
  for (let v = 0; v < 3 * mesh.vertices; v += 3) {
    const up = Math.max(0, normals[v + 1] as number);
    const speed = Math.hypot(mesh.velocities[v] as number, mesh.velocities[v + 1] as number, mesh.velocities[v + 2] as number);
    const calm = up * up * Math.max(0, 1 - speed / o.churn);
    if (calm === 0) continue;
    const [x, z] = [places[v] as number, places[v + 2] as number];
    let [height, sx, sz] = [0, 0, 0];
    for (const w of waves) {
      const at = w.x * x + w.z * z - w.speed * time + w.phase;
      height += w.height * Math.sin(at);
      const slope = w.height * Math.cos(at);
      sx += slope * w.x;
      sz += slope * w.z;
    }
    const n = [normals[v] as number, normals[v + 1] as number, normals[v + 2] as number] as const;
    for (let d = 0; d < 3; d++) places[v + d] = (places[v + d] as number) + calm * height * (n[d] as number);
    const [tx, ty, tz] = [n[0] - calm * sx, n[1], n[2] - calm * sz];
    const length = Math.sqrt(tx * tx + ty * ty + tz * tz) || 1;
    normals[v] = tx / length;
    normals[v + 1] = ty / length;
    normals[v + 2] = tz / length;
  }
  return { ...mesh, places, normals };
}
