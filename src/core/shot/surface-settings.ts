import * as z from 'zod';
import { DEEPEST, FILTER_KINDS, MEETINGS, METHODS } from '#core/surface';
import { choice, flag, integer, number, optional } from './fields';

// Settings of a surface: how particles become a skin.

const named = <K extends string>(keys: readonly K[], names: Readonly<Record<K, string>>): Readonly<Record<K, string>> =>
  Object.fromEntries(keys.map((k) => [k, names[k]])) as Readonly<Record<K, string>>;

const distance = z.strictObject({
  method: choice('averaged', named(METHODS, { averaged: 'Averaged position', balls: 'Union of balls', kernels: 'Anisotropic kernels' }), {
    title: 'Distance from',
    help: 'Averaged position (Zhu & Bridson 2005) is smooth and quick; balls show every particle; anisotropic kernels (Yu & Turk 2013) keep films flat and edges sharp.',
  }),
  spacing: optional(null, {
    title: 'Particle spacing',
    help: 'How far apart particles of the bulk lie. Must be said where a folder is read, or particles that no liquid solve made.',
    unit: 'metre',
    min: 1e-5,
    max: 1000,
    step: 1.1,
    ratio: true,
    none: "the solver's",
  }),
  voxelFactor: number(0.8, {
    title: 'Voxel size, in spacings',
    help: "Follows the particles' spacing and goes with it when the solve gets finer. Half as large: four times the triangles and the time.",
    min: 0.1,
    max: 20,
    step: 1.1,
    ratio: true,
  }),
  voxelSize: optional(null, {
    title: 'Voxel size',
    help: 'In metres, whatever the spacing is.',
    unit: 'metre',
    min: 1e-5,
    max: 1000,
    step: 1.1,
    ratio: true,
    none: 'follows the spacing',
  }),
  radius: choice(
    'factor',
    { factor: 'Of the spacing', metres: 'In metres', own: 'Each its own' },
    { title: 'Radius', help: 'Of the particles: a part of the spacing, a length, or what each has as its own attribute.' },
  ),
  radiusFactor: number(0.75, {
    title: 'Radius, in spacings',
    help: 'How far outside of the outermost particles the skin lies: 0.75 is right for averaged positions of a reach of 3. Of own radii: a factor on each.',
    min: 0.05,
    max: 10,
    step: 1.1,
    ratio: true,
  }),
  radiusMetres: number(0.01, { title: 'Radius', help: 'Of every particle.', unit: 'metre', min: 1e-5, max: 1000, step: 1.1, ratio: true }),
  radiusFrom: z
    .string()
    .trim()
    .min(1)
    .max(40)
    .default('radius')
    .meta({ title: 'Radius from', help: 'The attribute of the particles that is their radius, by its name in the file.' }),
  reach: number(3, {
    title: 'Reach, in spacings',
    help: 'How far a particle counts. Larger is smoother, and thicker where liquid is thin.',
    min: 1.5,
    max: 8,
    step: 1.1,
    ratio: true,
  }),
  joining: optional(2, {
    title: 'Joining distance, in spacings',
    help: 'Blobs whose skins are less far apart flow together.',
    min: 0,
    max: 8,
    step: 0.25,
    none: 'as the method has it',
  }),
  fewest: integer(12, {
    title: 'Balls below',
    help: 'Anisotropic kernels: a particle with fewer around it is spray, and drawn as a ball.',
    min: 0,
    max: 200,
    step: 1,
  }),
});

export const filterSchema = z.strictObject({
  kind: choice(
    'gaussian',
    named(FILTER_KINDS, {
      gaussian: 'Gaussian',
      median: 'Median',
      curvature: 'Mean curvature',
      offset: 'Offset',
      erode: 'Erode',
      dilate: 'Dilate',
      close: 'Close',
      open: 'Open',
    }),
    { title: 'Filter', help: 'What is done to the skin.' },
  ),
  on: flag(true, { title: 'On', help: 'Off: it is left out.' }),
  strength: number(1, {
    title: 'Strength',
    help: 'Gaussian: its width in voxels (up to 1.3). Median: the part that is taken over (up to 1). Mean curvature: part of the largest stable step (up to 1). The others: voxels.',
    min: -10,
    max: 10,
    step: 0.1,
  }),
  iterations: integer(1, { title: 'Times', help: 'How often it is done.', min: 1, max: 100, step: 1 }),
  spareThin: number(0, {
    title: 'Spare what is thin',
    help: '1: films and filaments stay as they were; 0: they are filtered too.',
    min: 0,
    max: 1,
    step: 0.1,
  }),
  spareWalls: number(0, {
    title: 'Spare at walls',
    help: '1: within a voxel of a solid or a wall nothing is filtered.',
    min: 0,
    max: 1,
    step: 0.1,
  }),
});
export type FilterSettings = z.output<typeof filterSchema>;

/** Most that a filter's strength can be. */
export const MOST_STRENGTH = { gaussian: 1.3, median: 1, curvature: 1 } as const;
export const mostStrength = (kind: FilterSettings['kind']): number => (MOST_STRENGTH as Readonly<Record<string, number>>)[kind] ?? 10;

const walls = z.strictObject({
  meeting: choice('contact', named(MEETINGS, { contact: 'At the contact surface', inside: 'A depth inside', trimmed: 'Trimmed' }), {
    title: 'At walls',
    help: 'Where the skin ends. Contact: where solids and closed walls begin, without a gap. A depth inside: so that a glass that refracts shows no air between. Trimmed: what reaches in is cut, gaps stay.',
  }),
  depth: number(0.5, { title: 'Depth inside, in voxels', help: 'How far the skin reaches into walls.', min: 0, max: DEEPEST, step: 0.1 }),
  cut: choice(
    'closed',
    { closed: 'Closed', open: 'Left open' },
    { title: 'Where an open wall cuts it', help: 'Of the limit box: a flat lid there, or a hole.' },
  ),
});

const polygons = z.strictObject({
  keepVolume: flag(true, {
    title: 'Keep the volume',
    help: "Moves the skin in or out until it holds the particles' volume, at most 1.5 voxels; by how much is said.",
  }),
  thin: number(2, {
    title: 'Thin is below, in voxels',
    help: 'Films and filaments thinner than this are counted as thin, and can be spared by filters.',
    min: 0.5,
    max: 6,
    step: 0.1,
  }),
  steady: number(0, {
    title: 'Steady over time',
    help: 'Part of the frames beside, moved here by their velocities, in the skin: calms what flickers, takes three times as long.',
    min: 0,
    max: 0.8,
    step: 0.05,
  }),
  crumb: number(8, {
    title: 'Crumbs are below, in particles',
    help: 'Pieces of less volume are counted as crumbs.',
    min: 1,
    max: 1e5,
    step: 1.2,
    ratio: true,
  }),
  simplify: choice(
    'none',
    { none: 'All triangles', share: 'A share of them', error: 'To an error' },
    { title: 'Simplify', help: 'Fewer and larger triangles where the skin is flat.' },
  ),
  share: number(0.5, { title: 'Share', help: 'Of the triangles that are left.', min: 0.01, max: 1, step: 1.1, ratio: true }),
  error: number(0.001, {
    title: 'Error',
    help: 'How far the skin may be moved.',
    unit: 'metre',
    min: 1e-6,
    max: 10,
    step: 1.1,
    ratio: true,
  }),
});

const waves = z.strictObject({
  height: number(0, {
    title: 'Wave height',
    help: 'Root mean square of small waves over the skin, strongest where it is calm; 0: none.',
    unit: 'metre',
    min: 0,
    max: 100,
    step: 1.1,
    ratio: true,
  }),
  longest: number(0.5, {
    title: 'Longest wave',
    help: 'Waves are between this and the shortest.',
    unit: 'metre',
    min: 1e-3,
    max: 1000,
    step: 1.1,
    ratio: true,
  }),
  shortest: number(0.05, {
    title: 'Shortest wave',
    help: 'Two voxels at least: finer ones the skin cannot show.',
    unit: 'metre',
    min: 1e-4,
    max: 1000,
    step: 1.1,
    ratio: true,
  }),
  wind: number(2, { title: 'Wind', help: 'Long waves need wind to grow.', unit: 'speed', min: 0, max: 60, step: 0.1 }),
  towards: number(0, { title: 'Blows towards', help: '0: along x; 90: along z.', unit: 'degree', min: -360, max: 360, step: 5 }),
  depth: number(1, {
    title: 'Depth',
    help: 'Of the liquid under the waves: over shallow ground they are slower.',
    unit: 'metre',
    min: 1e-3,
    max: 1e4,
    step: 1.1,
    ratio: true,
  }),
  churn: number(1, {
    title: 'Fade at',
    help: 'Where the liquid is as fast as this it churns, and carries no waves.',
    unit: 'speed',
    min: 0.01,
    max: 100,
    step: 1.1,
    ratio: true,
  }),
  seed: integer(1, { title: 'Seed', help: 'Other waves by chance.', min: 0, max: 1e6, step: 1 }),
});

const files = z.strictObject({
  mesh: choice(
    'ply',
    { ply: '.ply', obj: '.obj', glb: '.glb' },
    {
      title: 'Mesh',
      help: '.ply: binary, with normals, velocity and attributes. .glb: the same, as a scene. .obj: places and normals alone.',
    },
  ),
  compressed: flag(false, { title: 'Packed .glb', help: 'Meshopt compression: about a third of the size; not every program reads it.' }),
  attributes: z
    .string()
    .trim()
    .max(200)
    .default('')
    .meta({ title: 'Attributes', help: 'Names of attributes of the particles that the skin has too, with commas: age, viscosity.' }),
  distance: choice(
    'none',
    { none: 'Not kept', level: 'Level set', fog: 'Fog' },
    { title: 'Distance as .vdb', help: 'Beside the mesh: the signed distance around the skin, or a volume that is 1 inside.' },
  ),
});

/** Sections of a surface's sheet, in their order. */
export const SURFACE_SECTIONS = { distance, walls, polygons, waves, files } as const;

export const surfaceSettingsSchema = z
  .strictObject({
    distance: distance.prefault({}),
    stack: z
      .array(filterSchema)
      .max(12)
      .default([{ kind: 'curvature', on: true, strength: 0.8, iterations: 4, spareThin: 1, spareWalls: 0 }])
      .meta({ title: 'Filters', help: 'Done to the skin one after the other.' }),
    walls: walls.prefault({}),
    polygons: polygons.prefault({}),
    waves: waves.prefault({}),
    files: files.prefault({}),
  })
  .superRefine(({ stack, waves: w }, context) => {
    stack.forEach(({ kind, strength }, n) => {
      const most = mostStrength(kind);
      const least = kind === 'offset' ? -most : 0;
      if (strength < least || strength > most)
        context.addIssue({
          code: 'custom',
          path: ['stack', n, 'strength'],
          message: `must be between ${String(least)} and ${String(most)} here`,
        });
    });
    if (w.shortest > w.longest)
      context.addIssue({ code: 'custom', path: ['waves', 'shortest'], message: 'must not be longer than the longest wave' });
  });
export type SurfaceSettings = z.output<typeof surfaceSettingsSchema>;
