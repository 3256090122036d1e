import { type Box3, type Shape, unitPlace } from './shapes';

/** A grey picture. */
export interface Picture {
  readonly width: number;
  readonly height: number;
  /** 0 to 1, row by row from the top. */
  readonly values: Float32Array;
}

/** A picture that is thrown through the box of a shape. */
export interface PictureMask {
  /** SHA-256 of its data. */
  readonly picture: string;
  /** Where it is thrown from, in the shape's own turn: its upper edge is up, or (from above) at the back. */
  readonly from: 'front' | 'right' | 'above';
  /** Dark places count. */
  readonly inverted: boolean;
}

/** The picture's brightness where it falls through a shape's box, bilinear between the middles of its pixels. `box`: see unitPlace. */
export function throughPicture(
  { from, inverted }: PictureMask,
  { width, height, values }: Picture,
  shape: Shape,
  box: Box3,
): (x: number, y: number, z: number) => number {
  const place = unitPlace(shape, box);
  const at = (column: number, row: number): number =>
    values[Math.min(height - 1, Math.max(0, row)) * width + Math.min(width - 1, Math.max(0, column))] ?? 0;
  return (x, y, z) => {
    const [a, b, c] = place(x, y, z);
    // Across and down the picture, in pixels.
    const across = (from === 'right' ? 1 - c : a) * width - 0.5;
    const down = (from === 'above' ? c : 1 - b) * height - 0.5;
    const [i, j] = [Math.floor(across), Math.floor(down)];
    const [fi, fj] = [across - i, down - j];
    const value = (at(i, j) * (1 - fi) + at(i + 1, j) * fi) * (1 - fj) + (at(i, j + 1) * (1 - fi) + at(i + 1, j + 1) * fi) * fj;
    return inverted ? 1 - value : value;
  };
}
