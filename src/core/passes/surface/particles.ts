import { RuddleError } from '#core/errors';
import type { ParticleColumns } from '#core/formats';
import type { SurfaceInput, SurfaceParticles } from '#core/surface';
import type { SurfaceBody } from './body';

/** Particles of one or several caches, as a skin takes them. */
export interface Gathered {
  readonly particles: SurfaceParticles;
  readonly columns: SurfaceInput['columns'];
  /** Left out, as their radius or velocity is no number or the radius 0. */
  readonly without: number;
}

/** Columns that a cache must have beside place and velocity. */
export const columnsWanted = ({ radiusFrom, attributes }: SurfaceBody): string[] => [
  ...new Set([...attributes, ...(radiusFrom ? [radiusFrom.name] : [])]),
];

const columnOf = (cloud: ParticleColumns, name: string): ((n: number) => number) | null => {
  if (name === 'age') return (n) => cloud.places[4 * n + 3] as number;
  if (name === 'life') return (n) => cloud.motions[4 * n + 3] as number;
  if (name === 'id') return (n) => cloud.ids[n] as number;
  const own = cloud.more?.[name];
  return own ? (n) => own[n] as number : null;
};

/** Throws `file-invalid` when a file lacks what its first one had. */
export function particlesOf(clouds: readonly ParticleColumns[], body: SurfaceBody): Gathered {
  const wanted = columnsWanted(body);
  const readers = clouds.map((cloud) =>
    wanted.map((name) => {
      const own = columnOf(cloud, name);
      if (own) return own;
      const reason = `its particles have no "${name}", which other frames have`;
      throw new RuddleError('file-invalid', `A frame that is read: ${reason}.`, { file: name, reason });
    }),
  );
  const total = clouds.reduce((n, c) => n + c.count, 0);
  const places = new Float32Array(4 * total);
  const motions = new Float32Array(4 * total);
  const radii = body.radiusFrom ? new Float32Array(total) : null;
  const columns = body.attributes.map((name) => ({ name, values: new Float32Array(total) }));
  const radiusAt = body.radiusFrom ? wanted.indexOf(body.radiusFrom.name) : -1;
  let count = 0;
  clouds.forEach((cloud, c) => {
    for (let n = 0; n < cloud.count; n++) {
      const radius = radii ? (readers[c]?.[radiusAt]?.(n) ?? 0) * (body.radiusFrom?.factor ?? 1) : 1;
      if (!(radius > 0) || !Number.isFinite(radius)) continue;
      for (let a = 0; a < 3; a++) {
        places[4 * count + a] = cloud.places[4 * n + a] as number;
        // A velocity that is no number moves nothing.
        const v = cloud.motions[4 * n + a] as number;
        motions[4 * count + a] = Number.isFinite(v) ? v : 0;
      }
      if (radii) radii[count] = radius;
      columns.forEach(({ values }, k) => {
        const v = readers[c]?.[k]?.(n) ?? 0;
        values[count] = Number.isFinite(v) ? v : 0;
      });
      count++;
    }
  });
  return { particles: { count, places, motions, radii }, columns, without: total - count };
}

/** Particles of a frame beside, where their velocities take them in so many seconds. */
export function particlesBeside(particles: SurfaceParticles, seconds: number): SurfaceParticles {
  const places = particles.places.slice();
  for (let n = 0; n < 4 * particles.count; n += 4)
    for (let a = 0; a < 3; a++) places[n + a] = (places[n + a] as number) + seconds * (particles.motions[n + a] as number);
  return { ...particles, places };
}
