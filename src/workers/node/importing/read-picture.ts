import sharp from 'sharp';
import { RuddleError } from '#core/errors';
import type { Picture } from '#core/geometry';

/** Files that are read as pictures, by their ending. */
export const PICTURE = /\.(png|jpe?g|webp|tiff?)$/i;

/** Most pixels a side: a mask is finer than any source's voxels long before. */
const MOST = 1024;

/** A picture's brightness as it is shown (grey of its encoded colours), upright by its own orientation, on black where it is transparent. Throws `file-invalid`. */
export async function readPicture(bytes: Uint8Array, file: string): Promise<Picture> {
  try {
    const { data, info } = await sharp(bytes)
      .rotate()
      .flatten({ background: '#000000' })
      .resize(MOST, MOST, { fit: 'inside', withoutEnlargement: true })
      .greyscale()
      .raw({ depth: 'uchar' })
      .toBuffer({ resolveWithObject: true });
    const values = Float32Array.from({ length: info.width * info.height }, (_v, n) => (data[n * info.channels] ?? 0) / 255);
    return { width: info.width, height: info.height, values };
  } catch (cause) {
    const reason = `it cannot be read as a picture (${cause instanceof Error ? cause.message : String(cause)})`;
    throw new RuddleError('file-invalid', `${file}: ${reason}.`, { file, reason }, cause);
  }
}

export async function pngOf({ width, height, values }: Picture): Promise<Uint8Array<ArrayBuffer>> {
  const grey = Uint8Array.from(values, (v) => Math.round(255 * v));
  return new Uint8Array(
    await sharp(grey, { raw: { width, height, channels: 1 } })
      .png()
      .toBuffer(),
  );
}
