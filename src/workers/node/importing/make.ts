import { createHash } from 'node:crypto';
import { RuddleError } from '#core/errors';
import { readVdb } from '#core/formats';
import {
  type AnyGeometry,
  type MeshNotes,
  type PointsGeometry,
  boxOf,
  distanceFromTiles,
  encodeGeometry,
  insideBox,
  selfCrossings,
  tidy,
} from '#core/mesh';
import { guessUnit } from '#core/shot';
import type { GeometryInfo } from '#protocol';
import { NotReadable, readRegular } from '../regular-file';
import type { ReadMesh } from './mesh-file';
import { PICTURE, readPicture } from './read-picture';
import { readPointFile, readPointSeries } from './read-points';
import { readMesh } from './read';

type Triple = [number, number, number];
interface Box {
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
}

/** Poses a second that are kept of an animation; fewer where a long one of many vertices would not fit. */
const RATE = 48;
const MOST_POSES = 4800;
const MOST_BYTES = 384 * 2 ** 20;

export interface Made {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly info: GeometryInfo;
}

/** Says which part of the work goes on; `part` 0..1 where it can be told. */
export type TellStage = (stage: string, part: number | null) => void;

/** Turns a file on the disk into geometry as Ruddle keeps it, and says what was found. `file`: what it is called. Throws `file-invalid`. */
export async function makeGeometry(path: string, file: string, tell: TellStage = () => undefined): Promise<Made> {
  if (/\.zip$/i.test(file)) {
    const points = readPointSeries(path, file, (part) => {
      tell('unpacking', part);
    });
    tell('measuring', null);
    return fromPoints(points, file);
  }
  tell('reading', null);
  // A copy: what Node reads may lie in a buffer that it shares.
  const bytes = new Uint8Array(bytesOf(path, file));
  if (PICTURE.test(file)) return fromPicture(bytes, file);
  if (/\.vdb$/i.test(file)) return fromVolume(bytes, file);
  const points = /\.ply$/i.test(file) ? pointsOrNothing(bytes) : null;
  if (points) return fromPoints(points, file);
  const read = await readMesh(bytes, file);
  tell('checking the surface', null);
  return fromMesh(read, file, tell);
}

function bytesOf(path: string, file: string): Buffer {
  try {
    return readRegular(path);
  } catch (cause) {
    if (!(cause instanceof NotReadable)) throw cause;
    throw new RuddleError('file-invalid', `${file} ${cause.message}.`, { file, reason: cause.message }, cause);
  }
}

async function fromPicture(bytes: Uint8Array, file: string): Promise<Made> {
  const picture = await readPicture(bytes, file);
  return made({ kind: 'picture', picture }, file, {
    kind: 'picture',
    first: 0,
    extent: { min: [0, 0, 0], max: [0, 0, 0] },
    centre: [0, 0, 0],
    size: [picture.width, picture.height, 0],
    seconds: 0,
    notes: picture.values.every((v) => v === picture.values[0]) ? ['It is the same everywhere: it masks nothing.'] : [],
    sheet: false,
    triangles: 0,
  });
}

/** A .ply that cannot be read at all is told of by the reader of meshes. */
function pointsOrNothing(bytes: Uint8Array): PointsGeometry | null {
  try {
    const points = readPointFile(bytes);
    return points && points.positions.length > 0 && points.positions.every(Number.isFinite) ? points : null;
  } catch {
    return null;
  }
}

function fromPoints(points: PointsGeometry, file: string): Made {
  const first = points.positions.subarray(0, 3 * (points.starts[1] ?? 0));
  const box = boxOf(first.length > 0 ? first : points.positions);
  const centre = middleOf(box);
  const positions = points.positions.map((v, n) => v - (centre[n % 3] ?? 0));
  const count = points.numbers.length;
  const last = points.numbers[count - 1] ?? 0;
  const total = positions.length / 3;
  return made({ ...points, positions }, file, {
    kind: 'points',
    first: points.numbers[0] ?? 0,
    extent: around(boxOf(points.positions), centre),
    centre,
    size: sizeOf(boxOf(points.positions)),
    seconds: count > 1 ? last - (points.numbers[0] ?? 0) : 0,
    notes: [
      `${counted(total, 'point', 'points')} in ${counted(count, 'file', 'files')}${points.velocities ? ', with velocities' : ''}${points.radii ? ', with radii' : ''}.`,
      ...(points.velocities || points.ids || count === 1 ? [] : ['They have no velocities or ids: between two files they stand still.']),
    ],
    sheet: false,
    triangles: 0,
  });
}

const middleOf = ({ min, max }: Box): Triple => [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2];
const sizeOf = ({ min, max }: Box): Triple => [max[0] - min[0], max[1] - min[1], max[2] - min[2]];
const around = ({ min, max }: Box, c: Triple): { min: Triple; max: Triple } => ({
  min: [min[0] - c[0], min[1] - c[1], min[2] - c[2]],
  max: [max[0] - c[0], max[1] - c[1], max[2] - c[2]],
});

function fromMesh({ mesh: given, pose, seconds, notes }: ReadMesh, file: string, tell: TellStage): Made {
  const { mesh, from, notes: found } = tidy(given, file, pose ? [pose(seconds / 3), pose(seconds)] : []);
  const box = boxOf(mesh.positions);
  const centre = middleOf(box);
  const shifted = (p: Float32Array): Float32Array => p.map((v, n) => v - (centre[n % 3] ?? 0));
  let samples: Float32Array | null = null;
  let rate = RATE;
  let count = 1;
  let all: Box = box;
  const more = [...notes];
  if (pose && seconds > 0) {
    const fits = Math.floor(MOST_BYTES / (mesh.positions.length * 4));
    count = Math.max(2, Math.min(Math.ceil(seconds * RATE) + 1, MOST_POSES, fits));
    rate = (count - 1) / seconds;
    if (rate < RATE / 2) more.push(`Its animation is long: ${rate.toFixed(0)} poses a second are kept.`);
    samples = new Float32Array(mesh.positions.length * count);
    for (let s = 0; s < count; s++) {
      if (s % 16 === 0) tell('sampling its animation', s / count);
      const posed = pose(s / rate);
      for (let n = 0; n < from.length; n++) {
        for (let a = 0; a < 3; a++) samples[s * mesh.positions.length + 3 * n + a] = posed[3 * (from[n] ?? 0) + a] ?? 0;
      }
    }
    if (!samples.every(Number.isFinite)) {
      throw new RuddleError('file-invalid', `${file}: its animation leads to positions that are not numbers.`, {
        file,
        reason: 'animation',
      });
    }
    all = boxOf(samples);
    samples = shifted(samples);
    const still = mesh.positions.length;
    if (samples.every((v, n) => Math.abs(v - (samples?.[n % still] ?? 0)) < 1e-6 * Math.max(...sizeOf(box)))) [samples, count] = [null, 1];
  }
  const positions = shifted(mesh.positions);
  const geometry: AnyGeometry = { kind: 'mesh', mesh: { positions, triangles: mesh.triangles }, samples, rate: samples ? rate : 0, count };
  tell('looking for crossings', null);
  const crossings = selfCrossings({ positions, triangles: mesh.triangles });
  return made(geometry, file, {
    kind: 'mesh',
    first: 0,
    extent: around(samples ? all : box, centre),
    centre,
    size: sizeOf(box),
    seconds: samples ? seconds : 0,
    notes: [...more, ...sentences(found, crossings)],
    sheet: found.sheet,
    triangles: found.triangles,
  });
}

const counted = (n: number, one: string, many: string): string => `${String(n)} ${n === 1 ? one : many}`;

/** What was found and mended, said. */
function sentences(n: MeshNotes, crossings: number | null): string[] {
  return [
    ...(n.sheet ? ['It is an open surface without an inside: a thin wall fits it.'] : []),
    ...(!n.sheet && n.openEdges > 0
      ? [`It has holes (${counted(n.openEdges, 'open edge', 'open edges')}): they are closed by winding number.`]
      : []),
    ...(n.crowdedEdges > 0
      ? [`${counted(n.crowdedEdges, 'edge has', 'edges have')} more than two triangles: winding numbers settle what is inside.`]
      : []),
    ...(n.turned > 0
      ? [`${counted(n.turned, 'triangle looked', 'triangles looked')} the wrong way and ${n.turned === 1 ? 'was' : 'were'} turned.`]
      : []),
    ...(n.dropped > 0
      ? [`${counted(n.dropped, 'triangle', 'triangles')} without area or twice there ${n.dropped === 1 ? 'was' : 'were'} left out.`]
      : []),
    ...(crossings !== null && crossings > 0
      ? [
          `It crosses itself (${crossings >= 200 ? '200 or more pairs' : counted(crossings, 'pair', 'pairs')} of triangles): what is inside any part counts as inside.`,
        ]
      : []),
  ];
}

/** Channels that are a signed distance by name, when none says so itself. */
const NAMES = ['distance', 'surface', 'sdf', 'signed_distance', 'collision', 'solid', 'levelset', 'ls'];

function fromVolume(bytes: Uint8Array, file: string): Made {
  const { grids } = readVdb(bytes, file);
  const scalars = grids.filter((g) => g.tiles?.components === 1);
  const chosen =
    scalars.find((g) => g.metadata['class'] === 'level set') ??
    scalars.find((g) => NAMES.includes(g.name.toLowerCase())) ??
    (scalars.length === 1 ? scalars[0] : undefined);
  const refuse = (reason: string): never => {
    throw new RuddleError('file-invalid', `${file}: ${reason}.`, { file, reason });
  };
  if (!chosen?.tiles) {
    return refuse(
      scalars.length === 0
        ? 'it has no scalar channel'
        : `none of its channels (${scalars.map((g) => g.name).join(', ')}) is a signed distance by its class or name`,
    );
  }
  const { transform } = chosen;
  const [sx, sy, sz] = transform?.scale ?? [0, 0, 0];
  if (!transform || !(sx > 0) || Math.abs(sy - sx) > 1e-6 * sx || Math.abs(sz - sx) > 1e-6 * sx)
    return refuse('its voxels are turned or not cubes');
  const t = transform.translation;
  const { grid, turned } = distanceFromTiles(chosen.tiles, sx, [t[0], t[1], t[2]], file);
  const box = insideBox(grid);
  const centre = middleOf(box);
  const origin: Triple = [grid.origin[0] - centre[0], grid.origin[1] - centre[1], grid.origin[2] - centre[2]];
  return made({ kind: 'distance', grid: { ...grid, origin } }, file, {
    kind: 'distance',
    first: 0,
    extent: around(box, centre),
    centre,
    size: sizeOf(box),
    seconds: 0,
    notes: [
      `Its signed distance is the channel "${chosen.name}"${grids.length > 1 ? ` of ${grids.map((g) => g.name).join(', ')}` : ''}.`,
      ...(turned ? ['It had its inside positive and was turned; if that is wrong, switch "Inside out" on.'] : []),
    ],
    sheet: false,
    triangles: 0,
  });
}

function made(geometry: AnyGeometry, file: string, facts: Omit<GeometryInfo, 'hash' | 'file' | 'bytes' | 'unit'>): Made {
  const bytes = encodeGeometry(geometry);
  const hash = createHash('sha256').update(bytes).digest('hex');
  return { bytes, info: { ...facts, hash, file, bytes: bytes.length, unit: guessUnit(Math.max(...facts.size), file) } };
}
