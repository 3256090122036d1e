import { RuddleError } from '#core/errors';
import type { Vec3 } from '#core/math';
import { rotate, rotationFromDegrees } from '#core/math';
import type { ShapeSettings } from './solve-settings';

/** What is known of an imported file, in its own units. */
export interface ImportedFile {
  readonly hash: string;
  readonly file: string;
  readonly extent: { readonly min: Vec3; readonly max: Vec3 };
  /** Middle of its rest pose, as the file has it. */
  readonly centre: Vec3;
  readonly seconds: number;
  readonly kind: 'mesh' | 'distance' | 'points' | 'picture';
  /** Of points: number of the first file. */
  readonly first: number;
}

const short = (v: number): number => Number(v.toPrecision(7)) + 0;

/**
 * The shape of imported geometry, where the file has it: `scale` metres a file unit, once and for all axes; a file whose z axis points up is turned
 * upright.
 */
export function importedShape(file: ImportedFile, scale: number, up: 'y' | 'z', framesPerSecond: number): ShapeSettings & { kind: 'mesh' } {
  if (file.kind === 'picture')
    throw new RuddleError('file-invalid', `${file.file} is a picture: it has no shape. It can mask what a source emits.`, {
      file: file.file,
      reason: 'a picture',
    });
  const series = file.kind === 'points' && file.seconds > 0;
  const rotation: [number, number, number] = up === 'z' ? [-90, 0, 0] : [0, 0, 0];
  const c = rotate(rotationFromDegrees(rotation), file.centre);
  return {
    kind: 'mesh',
    geometry: file.hash,
    file: file.file,
    extent: { min: [...file.extent.min], max: [...file.extent.max] },
    seconds: file.seconds,
    centre: [short(c[0] * scale), short(c[1] * scale), short(c[2] * scale)],
    rotation,
    scale,
    content: file.kind,
    pointRadius: null,
    pick: 'all',
    above: 0,
    insideOut: false,
    // A file of points is a frame of the shot: the one of its number.
    starts: series ? file.first : null,
    pace: series ? framesPerSecond : 1,
  };
}
