import { isRuddleError } from '#core/errors';
import { contactDistance, type FlowOptions } from '#core/flow';
import { type ParticleColumns, meshPreview, pointsPreview, writeFrameFile } from '#core/formats';
import { type SurfaceBody, type SurfaceReport, columnsWanted, particlesBeside, particlesOf } from '#core/passes';
import { type SurfaceMesh, Pool, bendOf, makeSurface, maySurface } from '#core/surface';
import type { PassPart, PassWorker } from './contract';
import { meshFile, simplified } from './surface-mesh';
import { surfaceVolume } from './surface-volume';

/** What is looked at of a mesh: its columns, and how it is bent. */
const shown = (mesh: SurfaceMesh, voxelSize: number): Uint8Array<ArrayBuffer> =>
  meshPreview({ ...mesh, columns: [...mesh.columns, { name: 'curvature', values: bendOf(mesh, voxelSize) }] });

/** Some particles of a frame, as what is looked at. */
function pick(
  { places, motions }: { readonly places: Float32Array; readonly motions: Float32Array },
  chosen: Uint32Array,
): ParticleColumns {
  const four = (from: Float32Array): Float32Array => {
    const out = new Float32Array(4 * chosen.length);
    chosen.forEach((n, to) => {
      out.set(from.subarray(4 * n, 4 * n + 3), 4 * to);
    });
    return out;
  };
  return { count: chosen.length, places: four(places), motions: four(motions), ids: chosen.map((_v, n) => n) };
}

export const surfacePass: PassWorker<SurfaceBody, SurfaceReport> = ({ plan, points, beside, forms, team, clock, uuid }) => {
  const { body, frames, gives } = plan;
  const kernels = team();
  const pool = new Pool(kernels);
  const wanted = columnsWanted(body);
  const also = plan.inputs.some((i) => i.role === 'more') ? beside('more') : null;
  const read = (frame: number): ParticleColumns[] => [points(frame, wanted), ...(also ? [also.points(frame, wanted)] : [])];
  /** At the ends of the range there is no frame beside. */
  const perhaps = (frame: number): ParticleColumns[] | null => {
    try {
      return read(frame);
    } catch (error) {
      if (isRuddleError(error, 'refused') && error.fields.reason === 'input missing') return null;
      throw error;
    }
  };
  const { scene, skin } = body;
  const options = { ...scene, sources: [], forces: { fields: [], moves: {} } } as unknown as FlowOptions;
  return {
    frame: async (frame, isWanted) => {
      const began = clock();
      const { particles, columns, without } = particlesOf(read(frame), body);
      const besides =
        skin.steady > 0
          ? [-1, 1].flatMap((step) => {
              const other = perhaps(frame + step * frames.every);
              return other ? [particlesBeside(particlesOf(other, body).particles, -step * body.frameSeconds)] : [];
            })
          : [];
      maySurface(particles.count, skin.distance, kernels.available() + kernels.allocated());
      const loaded = clock();
      const time = (frame - scene.firstFrame) / scene.framesPerSecond;
      const solids = scene.solids.length > 0 ? contactDistance(options, forms, time) : null;
      const made = makeSurface(
        pool,
        { particles, columns, beside: besides, surrounding: { solids, limit: scene.bounds.limit, walls: scene.bounds.walls }, time },
        skin,
        clock,
      );
      const { figures } = made;
      const polygons = clock();
      const mesh = body.simplify ? await simplified(made.mesh, body.simplify) : made.mesh;
      const fewer = clock();
      const parts: PassPart[] = [];
      if (isWanted) {
        const outside = pointsPreview(pick(particles, made.outside), 1, false);
        parts.push({
          extension: body.files.mesh,
          bytes: await meshFile(mesh, body.files, gives.file),
          previews: [
            { channel: 'mesh', bytes: shown(mesh, skin.distance.voxelSize) },
            { channel: 'outside', bytes: outside },
          ],
        });
        if (body.files.distance !== 'none') {
          const grid = surfaceVolume(made.level, skin.distance.voxelSize, body.files.distance);
          const file = {
            ...gives.file,
            voxelSize: skin.distance.voxelSize,
            precision: 'half',
            compression: 'blosc',
            uuid: uuid(1, frame),
          } as const;
          parts.push({ extension: 'vdb', bytes: writeFrameFile([grid], file), previews: [] });
        }
      }
      made.level.free();
      const { seconds, memoryBytes, ...rest } = figures;
      const report: SurfaceReport = {
        ...rest,
        frame,
        seconds: { reading: loaded - began, ...seconds, simplifying: fewer - polygons, writing: clock() - fewer },
        totalSeconds: clock() - began,
        memoryBytes: memoryBytes + particles.places.byteLength * 3 + 60 * mesh.vertices,
        elements: particles.count + figures.voxels,
        kept: mesh.triangles.length / 3,
        triangles: mesh.triangles.length / 3,
        vertices: mesh.vertices,
        before: body.simplify ? figures.triangles : null,
        without,
        voxelSize: skin.distance.voxelSize,
      };
      return { report, parts, state: null };
    },
  };
};
