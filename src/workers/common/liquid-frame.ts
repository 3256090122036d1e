import { type ParticleColumns, type PlyAttribute, pointsPreview, writePly } from '#core/formats';
import type { LiquidCloud } from '#core/liquid';
import type { LiquidAttribute, LiquidPlan } from '#core/shot';

/** Most particles that are looked at: more take longer than a picture may. */
const MOST_POINTS = 300_000;

const columnsOf = ({ count, places, motions, ids }: LiquidCloud): ParticleColumns => ({
  count,
  places,
  motions,
  ids: new Uint32Array(ids.buffer, ids.byteOffset, ids.length),
});

/** Radius of the ball of a particle's volume, metres. */
const radii = ({ count, motions }: LiquidCloud): Float32Array =>
  Float32Array.from({ length: count }, (_v, n) => Math.cbrt((3 * (motions[4 * n + 3] ?? 0)) / (4 * Math.PI)));

const COLUMNS: Readonly<Record<LiquidAttribute, (cloud: LiquidCloud) => Omit<PlyAttribute, 'name'>>> = {
  radius: (cloud) => ({ values: radii(cloud), of: 'length' }),
  viscosity: ({ viscosities }) => ({ values: viscosities, of: 'number' }),
  source: ({ sources }) => ({ values: sources, of: 'number' }),
};

/** A frame's particles as their file. */
export const liquidFile = (cloud: LiquidCloud, { keep, file }: LiquidPlan): Uint8Array<ArrayBuffer> =>
  writePly(
    columnsOf(cloud),
    file,
    keep.attributes.map((name) => ({ name, ...COLUMNS[name](cloud) })),
  );

/** What the page looks at: every so many by number, the share halved as they grow, so that it seldom changes. */
export const liquidPreview = (cloud: LiquidCloud): Uint8Array<ArrayBuffer> =>
  pointsPreview(columnsOf(cloud), 2 ** Math.max(0, Math.ceil(Math.log2(cloud.count / MOST_POINTS))), false, true);
