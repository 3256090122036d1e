import { type Shape, crossSection, scaledShape, shapeVolume } from '#core/geometry';
import type { Vec3 } from '#core/math';
import type { LiquidSource } from './options';

/** What comes out of an emitting source: of its rate, its speed and its opening two are given, and the third follows. */
export interface Stream {
  /** Of length 1; null: it has no velocity and pushes outward from its middle. */
  readonly direction: Vec3 | null;
  /** Metres a second along the direction; outward: at its surface, on average. */
  readonly speed: number;
  /** Cubic metres a second. */
  readonly rate: number;
  /** Square metres of its shape's shadow along the direction; outward: of its surface, about. */
  readonly opening: number;
  /** The shape that it comes out of: its own, or one so large that rate and velocity fit. */
  readonly shape: Shape;
}

type Asked = Pick<LiquidSource, 'velocity' | 'volumeRate' | 'opening'>;

/** `area`: of the shape's shadow, where it is known better than by its closed form. */
export function streamOf(shape: Shape, { velocity, volumeRate, opening }: Asked, area: number | null = null): Stream {
  const length = Math.hypot(...velocity);
  if (length === 0) {
    // A ball of its volume has this surface: enough to say how fast it comes out.
    const surface = (36 * Math.PI * shapeVolume(shape) ** 2) ** (1 / 3);
    const rate = volumeRate ?? 0;
    return { direction: null, speed: surface > 0 ? rate / surface : 0, rate, opening: surface, shape };
  }
  const direction: Vec3 = [velocity[0] / length, velocity[1] / length, velocity[2] / length];
  const own = area ?? crossSection(shape, direction);
  if (volumeRate === null) return { direction, speed: length, rate: own * length, opening: own, shape };
  if (opening === 'shape' || own === 0 || volumeRate === 0)
    return { direction, speed: own > 0 ? volumeRate / own : 0, rate: volumeRate, opening: own, shape };
  const wanted = volumeRate / length;
  return { direction, speed: length, rate: volumeRate, opening: wanted, shape: scaledShape(shape, Math.sqrt(wanted / own)) };
}
