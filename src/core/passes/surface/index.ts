import { RuddleError } from '#core/errors';
import { type PassDefinition, listFrames } from '#core/pass';
import { type SurfaceSettings, resolvePlan } from '#core/shot';
import { NATURAL, bytesOfSurface } from '#core/surface';
import { formatCount, formatQuantity } from '#core/units';
import type { SurfaceBody, SurfaceReport } from './body';
import { surfaceChecks } from './checks';

export type { SurfaceBody, SurfaceReport, SurfaceScene } from './body';
export { surfaceNote } from './note';
export { columnsWanted, particlesBeside, particlesOf } from './particles';

/** Triangles a spacing squared of the particles' own area, of voxels as large as the spacing. */
const TRIANGLES = 2.3;
/** How much more skin there is than around a cube of the same liquid: it splashes. */
const SPLASHED = 3;

/** Area of the skin of so many particles, squared spacings. */
const areaOf = (particles: number): number => SPLASHED * 6 * Math.cbrt(particles) ** 2;
const voxelsOf = ({ skin: { distance: d } }: SurfaceBody, particles: number): number =>
  9 * areaOf(particles) * (d.spacing / d.voxelSize) ** 2;

const refuse = (path: string, message: string): RuddleError<'settings-invalid'> =>
  new RuddleError('settings-invalid', `There cannot be a skin: ${message}.`, { issues: [{ path, message }] });

const listed = (text: string): string[] => [...new Set(text.split(/[\s,]+/).filter((name) => name !== ''))];

/** Names that a file's own columns have: attributes of these names would stand twice in it. */
const OWN = new Set(['x', 'y', 'z', 'nx', 'ny', 'nz', 'vx', 'vy', 'vz', 'v', 'normal', 'velocity']);

export const surfaceDefinition: PassDefinition<SurfaceSettings, SurfaceBody, SurfaceReport> = {
  title: 'Surface',
  about: 'A skin of triangles around particles: distance, filters, walls, polygons.',
  version: 1,
  essence: (body) => body,
  // Steadied by the frames beside it, one frame of its list each way.
  ahead: ({ skin }) => (skin.steady > 0 ? 1 : 0),
  order: 'any',
  output: 'mesh',
  accepts: ['ply'],
  needs: {},
  beside: { more: { accepts: ['ply'], needs: {} } },
  parts: ['distance'],
  resolve: ({ shot, solve, rung, input, beside }, { distance: d, stack, walls, polygons, waves, files }) => {
    const spacing = d.spacing ?? input.spacing;
    if (spacing === undefined) throw refuse('distance.spacing', 'how far apart these particles lie is not known; set "Particle spacing"');
    const caches = [input, ...(beside.more ? [beside.more] : [])];
    const attributes = listed(files.attributes);
    const twice = attributes.find((name) => OWN.has(name));
    if (twice !== undefined) throw refuse('files.attributes', `"${twice}" is there in any case`);
    for (const name of [...attributes, ...(d.radius === 'own' ? [d.radiusFrom] : [])]) {
      const lacks = caches.findIndex((c) => !c.channels.includes(name));
      if (lacks < 0) continue;
      const which = caches.length > 1 ? ` (${lacks === 0 ? 'the first' : 'the second'} of the two that are read)` : '';
      const has = caches[lacks]?.channels.filter((c) => c !== 'v') ?? [];
      throw refuse(
        name === d.radiusFrom && d.radius === 'own' ? 'distance.radiusFrom' : 'files.attributes',
        `its particles have no attribute "${name}"${which}; there ${has.length === 1 ? 'is' : 'are'} ${has.join(', ') || 'none'}. Keep it in the solve (Keep), or leave it out`,
      );
    }
    const voxelSize = d.voxelSize ?? d.voxelFactor * spacing;
    const reach = d.reach * spacing;
    const radius = d.radius === 'metres' ? d.radiusMetres : d.radiusFactor * spacing;
    if (d.method === 'averaged' && d.radius !== 'own' && radius >= reach)
      throw refuse(
        'distance.radiusFactor',
        `a radius of ${formatQuantity(radius, 'metre')} lies beyond the reach of ${formatQuantity(reach, 'metre')}`,
      );
    if (waves.height > 0 && waves.shortest < 2 * voxelSize)
      throw refuse('waves.shortest', `the skin cannot show waves of less than two voxels, ${formatQuantity(2 * voxelSize, 'metre')}`);
    const options = resolvePlan(shot, solve, rung).options;
    const { voxelSize: of, framesPerSecond, timeScale, firstFrame, solids, followed, bounds } = options;
    const frames = beside.more
      ? {
          ...input.frames,
          first: Math.max(input.frames.first, beside.more.frames.first),
          last: Math.min(input.frames.last, beside.more.frames.last),
        }
      : input.frames;
    if (frames.last < frames.first) throw refuse('more', 'the two that are read have no frame in common');
    return {
      body: {
        skin: {
          distance: {
            method: d.method,
            voxelSize,
            spacing,
            // Of own radii the volume of a particle of the bulk stands for one.
            radius: d.radius === 'own' ? NATURAL * reach : radius,
            each: d.radius === 'own',
            reach,
            joining: d.joining === null ? null : d.joining * spacing,
            fewest: d.fewest,
          },
          stack,
          thin: polygons.thin,
          keepVolume: polygons.keepVolume,
          walls: { meeting: walls.meeting, depth: walls.depth },
          cut: walls.cut,
          steady: polygons.steady,
          crumb: polygons.crumb,
          waves: waves.height > 0 ? waves : null,
        },
        scene: {
          voxelSize: of,
          framesPerSecond,
          timeScale,
          firstFrame,
          solids,
          followed,
          bounds: { limit: bounds.limit, walls: bounds.walls },
        },
        radiusFrom: d.radius === 'own' ? { name: d.radiusFrom, factor: d.radiusFactor / 0.75 } : null,
        attributes,
        frameSeconds: (shot.timeScale / shot.framesPerSecond) * input.frames.every,
        simplify:
          polygons.simplify === 'share'
            ? { kind: 'share', share: polygons.share }
            : polygons.simplify === 'error'
              ? { kind: 'error', metres: polygons.error }
              : null,
        files: { mesh: files.mesh, compressed: files.mesh === 'glb' && files.compressed, distance: files.distance },
      },
      frames,
      gives: { output: 'mesh', voxelSizes: [], channels: ['v', ...attributes], file: input.file, extension: files.mesh, spacing },
    };
  },
  geometry: ({ scene }) => [...new Set(scene.solids.flatMap(({ shape }) => (shape.kind === 'mesh' ? [shape.geometry] : [])))],
  index: ({ body, frames, gives }) => {
    const { framesPerSecond, timeScale, firstFrame } = body.scene;
    // Seconds of the shot, which its files are in.
    const rate = framesPerSecond * timeScale;
    return {
      surface: 1,
      unit: { metres: gives.file.metresPerUnit },
      up: gives.file.upAxis,
      framesPerSecond: rate,
      mesh: gives.extension,
      distance: body.files.distance === 'none' ? null : body.files.distance,
      vertices: gives.extension === 'obj' ? ['position', 'normal'] : ['position', 'normal', 'velocity', ...body.attributes],
      frames: listFrames(frames).map((frame) => ({ frame, seconds: (frame - firstFrame) / rate })),
    };
  },
  sketch: { lead: 0, frames: 1, from: (body) => body },
  cost: {
    elements: (body, input, _age, beside) => {
      const particles = input + beside;
      const filters = body.skin.stack.reduce((n, f) => n + (f.on ? f.iterations : 0), 0);
      return (1 + (body.skin.steady > 0 ? 2 : 0)) * (particles + voxelsOf(body, particles)) + 0.1 * filters * voxelsOf(body, particles);
    },
    kept: (body, input) => {
      const { spacing, voxelSize } = body.skin.distance;
      const triangles = TRIANGLES * areaOf(input) * (spacing / voxelSize) ** 2;
      return body.simplify?.kind === 'share' ? body.simplify.share * triangles : triangles;
    },
    rates: { secondsPerElement: 4e-7, bytesPerKept: 34 },
    memoryBytes: (body, input, beside) => bytesOfSurface(input + beside, body.skin.distance) + 60 * voxelsOf(body, input),
  },
  line: (r) =>
    `${formatCount(r.triangles)} triangles, ${formatCount(r.outside.count)} of ${formatCount(r.particles)} particles outside, ${formatQuantity(r.volume.skin, 'volume', { digits: 3 })}`,
  figures: [
    {
      id: 'outside',
      title: 'Particles outside',
      unit: 'percent',
      of: (r) => (r.particles > 0 ? (100 * r.outside.count) / r.particles : null),
    },
    { id: 'farthest', title: 'Farthest outside', unit: 'metre', of: (r) => r.outside.farthest },
    {
      id: 'volume',
      title: "Volume over the particles'",
      unit: 'percent',
      of: (r) => (r.volume.particles > 0 ? (100 * r.volume.skin) / r.volume.particles : null),
    },
    { id: 'shift', title: 'Moved to keep the volume', unit: 'metre', of: (r) => r.shift },
    {
      id: 'thin',
      title: 'Thin parts kept',
      unit: 'percent',
      of: (r) => (r.thin.particles > 0 ? (100 * r.thin.kept) / r.thin.particles : null),
    },
    { id: 'roughness', title: 'Roughness', unit: 'voxel', of: (r) => r.roughness },
    { id: 'triangles', title: 'Triangles', unit: 'none', of: (r) => r.triangles },
    { id: 'pieces', title: 'Pieces', unit: 'none', of: (r) => r.pieces.pieces },
    { id: 'crumbs', title: 'Crumbs', unit: 'none', of: (r) => r.pieces.crumbs },
    { id: 'gap', title: 'Gap at walls, mean', unit: 'metre', of: (r) => r.contact?.gap.mean ?? null },
    { id: 'gapMost', title: 'Gap at walls, largest', unit: 'metre', of: (r) => r.contact?.gap.largest ?? null },
    { id: 'overlap', title: 'Overlap with walls, mean', unit: 'metre', of: (r) => r.contact?.overlap.mean ?? null },
    { id: 'overlapMost', title: 'Overlap with walls, largest', unit: 'metre', of: (r) => r.contact?.overlap.largest ?? null },
    { id: 'flicker', title: 'Differs from the frames beside', unit: 'voxel', of: (r) => r.flicker },
    { id: 'seconds', title: 'Time', unit: 'second', of: (r) => r.totalSeconds },
  ],
  checks: surfaceChecks,
  nothing: (r) => {
    if (r.particles === 0)
      return r.without > 0 ? 'None of its particles has a radius: choose another radius.' : 'What it reads has no particles at this frame.';
    return r.triangles === 0
      ? 'The radius is too small for the voxels: nothing lies between them. Raise it, or lower the voxel size.'
      : null;
  },
};
