import { RuddleError } from '#core/errors';
import type { Box3 } from '#core/geometry';
import type { FrameFacts, PassDefinition } from '#core/pass';
import { type StillsSettings, defaultLimit } from '#core/shot';
import { formatCount } from '#core/units';
import type { StillCamera } from './camera';
import type { MarchOptions } from './march';

export { march, toBytes, type VolumePart } from './march';
export { drawPoints } from './points';

/** `points`: particles are read, not volumes. */
export type StillsBody = MarchOptions & { readonly points?: { readonly radius: number } };

export interface StillsReport extends FrameFacts {
  readonly samples: number;
  /** Part of the light from behind that is held back, in the mean over the picture; flame counts as covered. */
  readonly covered: number;
  /** Particles of the frame, where particles are read. */
  readonly particles?: number;
}

const FIELD_OF_VIEW = 32;

/** From the front, a little from above: all of a box. */
function before({ min, max }: Box3, aspect: number): StillCamera {
  const centre = [0, 1, 2].map((a) => ((min[a] ?? 0) + (max[a] ?? 0)) / 2) as [number, number, number];
  const [x, y, z] = [0, 1, 2].map((a) => (max[a] ?? 0) - (min[a] ?? 0)) as [number, number, number];
  const half = Math.tan((FIELD_OF_VIEW * Math.PI) / 360);
  const away = Math.max(y, x / aspect) / 2 / half + z / 2;
  return { position: [centre[0], centre[1] + 0.12 * away, centre[2] + away], target: centre, fieldOfView: FIELD_OF_VIEW, aspect };
}

/** Particles and pixels, so weighed that one of them takes as long as a sample of a march: one rate holds for both. */
export const workOfPoints = (particles: number, pixels: number): number => 2 * particles + 1.5 * pixels;

export const stillsDefinition: PassDefinition<StillsSettings, StillsBody, StillsReport> = {
  title: 'Stills',
  about: 'A picture of each frame: smoke that absorbs light and flame that gives it off, or particles.',
  version: 1,
  essence: (body) => body,
  order: 'any',
  output: 'picture',
  accepts: ['vdb', 'ply'],
  needs: { vdb: ['density'] },
  resolve: ({ shot, solve, input }, { camera: name, width, extinction, emission, step, pointRadius }) => {
    const saved = name === null ? null : shot.cameras.find((c) => c.name === name);
    if (saved === undefined) {
      const message = `there is no camera "${name ?? ''}" in this shot`;
      throw new RuddleError('settings-invalid', `This cannot be computed: ${message}.`, { issues: [{ path: 'camera', message }] });
    }
    const limit = solve.bounds.limit ?? defaultLimit(solve);
    const camera = saved
      ? { position: saved.position, target: saved.target, fieldOfView: saved.fieldOfView, aspect: saved.aspect }
      : before(limit, 16 / 9);
    return {
      body: {
        camera,
        width,
        height: Math.max(16, Math.round(width / camera.aspect)),
        extinction,
        emission,
        step,
        ...(input.output === 'ply' ? { points: { radius: pointRadius } } : {}),
      },
      frames: input.frames,
      gives: { output: 'picture', voxelSizes: [], channels: [], file: input.file },
    };
  },
  geometry: () => [],
  cost: {
    // Rays cross about as many voxels as the volume is wide, where there is matter: a small part of the picture.
    elements: ({ width, height, step, points }, input) =>
      points ? workOfPoints(input, width * height) : 0.06 * width * height * (Math.cbrt(input) / step),
    // Larger pictures of the same thing pack better.
    kept: ({ width, height }) => (width * height) ** 0.75,
    rates: { secondsPerElement: 2.5e-7, bytesPerKept: 7 },
    memoryBytes: ({ width, height }, input) => 8 * input + 17 * width * height,
  },
  line: (r) =>
    `${String(Number((100 * r.covered).toPrecision(2)))} % covered, ${formatCount(r.samples)} ${r.particles === undefined ? 'samples' : `of ${formatCount(r.particles)} particles`}`,
  figures: [{ id: 'covered', title: 'Covered', unit: 'percent', of: (r) => 100 * r.covered }],
  checks: () => [],
  nothing: ({ samples, covered, particles }) => {
    if (particles === 0) return 'What it reads has no particles at this frame.';
    if (particles !== undefined) return samples > 0 ? null : 'The camera does not look at the particles: choose another one, or none.';
    if (samples === 0) return 'The camera does not look at the smoke: choose another one, or none.';
    return covered < 1e-4 ? 'The smoke is too thin to be seen: raise the extinction.' : null;
  },
};
