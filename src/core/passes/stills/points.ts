import type { ParticleColumns } from '#core/formats';
import { type StillCamera, basisOf } from './camera';
import type { March } from './march';

export interface PointsOptions {
  readonly camera: StillCamera;
  readonly width: number;
  readonly height: number;
  /** Of a particle, metres. */
  readonly radius: number;
}

/** Light that a particle throws back, linear. */
const LIGHT = 0.6;
/** What comes through is nothing any more. */
const OPAQUE = 1e-3;

/**
 * A frame's particles as discs of one radius. A disc covers a pixel as much as its edge leaves of it; one that is smaller than a pixel counts by its area, so that a
 * cloud is as dense from afar as it is. All are of one light: which of two lies in front makes no difference, and they are not sorted.
 */
export function drawPoints({ count, places }: ParticleColumns, { camera, width, height, radius }: PointsOptions): March {
  const { right, up, back, half } = basisOf(camera);
  const pixels = new Float32Array(4 * width * height);
  for (let n = 3; n < pixels.length; n += 4) pixels[n] = 1;
  const [cx, cy, cz] = camera.position;
  const scale = height / 2 / half;
  let seen = 0;
  for (let n = 0; n < count; n++) {
    const x = (places[4 * n] as number) - cx;
    const y = (places[4 * n + 1] as number) - cy;
    const z = (places[4 * n + 2] as number) - cz;
    const depth = -(x * back[0] + y * back[1] + z * back[2]);
    if (depth <= radius) continue;
    const px = width / 2 + ((x * right[0] + y * right[1] + z * right[2]) / depth) * scale;
    const py = height / 2 - ((x * up[0] + y * up[1] + z * up[2]) / depth) * scale;
    const r = (radius / depth) * scale;
    if (px < -r - 1 || py < -r - 1 || px > width + r + 1 || py > height + r + 1) continue;
    seen++;
    const small = r < 0.5;
    // The edge goes over a pixel: this much further in, a disc holds back its own area.
    const edge = small ? 0 : Math.sqrt(r * r - 1 / 12) + 0.5;
    const reach = small ? 0.5 : edge;
    const alpha = small ? Math.PI * r * r : 1;
    for (let row = Math.max(0, Math.floor(py - reach)); row <= Math.min(height - 1, Math.floor(py + reach)); row++) {
      const dy = Math.abs(row + 0.5 - py);
      for (let column = Math.max(0, Math.floor(px - reach)); column <= Math.min(width - 1, Math.floor(px + reach)); column++) {
        const at = 4 * (row * width + column);
        const through = pixels[at + 3] as number;
        if (through < OPAQUE) continue;
        const dx = Math.abs(column + 0.5 - px);
        // Shared among the pixels around its middle, or by how far a pixel lies inside.
        const part = small ? Math.max(0, 1 - dx) * Math.max(0, 1 - dy) : Math.min(1, Math.max(0, edge - Math.sqrt(dx * dx + dy * dy)));
        const held = through * part * alpha;
        const light = held * LIGHT;
        pixels[at] = (pixels[at] as number) + light;
        pixels[at + 1] = (pixels[at + 1] as number) + light;
        pixels[at + 2] = (pixels[at + 2] as number) + light;
        pixels[at + 3] = through - held;
      }
    }
  }
  return { pixels, samples: seen };
}
