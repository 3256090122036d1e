import { z } from 'zod';
import { choice, flag, integer, number, optional } from './fields';
import { boxSchema, fileFields } from './parts';
import { gasSettingsSchema } from './solve-settings';

// The passes of a shot. Their settings are checked here, with everything else of a shot: one schema for files, drafts and edits.

/** What a pass reads: the cache of the solve or of a pass before it, at its own rung or another; or one certain run, whatever the sheet says. */
const passInputSchema = z.strictObject({
  pass: z
    .string()
    .min(1)
    .max(40)
    .default('solve')
    .meta({ title: 'Reads', help: 'The cache that it works on: of the solve, or of a pass before it.' }),
  rung: choice(
    'same',
    { same: 'Same as its own', test: 'Test', final: 'Final' },
    { title: 'At', help: 'A Final can stand on an approved Test. Same: a Test reads a Test, a Final reads a Final.' },
  ),
  run: z
    .string()
    .max(40)
    .nullable()
    .default(null)
    .meta({ title: 'Pinned run', help: 'It reads this run and does not follow the sheet.', none: 'follows the sheet' }),
  folder: z.string().trim().min(1).max(1000).nullable().default(null).meta({
    title: 'Folder',
    help: 'It reads numbered .vdb or .ply files of a folder on this machine instead of a pass.',
    none: 'none',
  }),
});
export type PassInput = z.output<typeof passInputSchema>;

/** Which channels of what is read are kept. */
const keptFields = () => ({
  density: flag(true, { title: 'Density', help: 'Kept, when what it reads has it.' }),
  temperature: flag(true, { title: 'Temperature', help: 'Kept, when what it reads has it.' }),
  flame: flag(true, { title: 'Flame', help: 'Kept, when what it reads has it.' }),
  fuel: flag(false, { title: 'Fuel', help: 'Kept, when what it reads has it.' }),
  colour: flag(true, { title: 'Colour', help: 'Kept, when what it reads has it.' }),
  uvw: flag(false, { title: 'Texture coordinates', help: 'Kept, when what it reads has them.' }),
  vel: flag(true, { title: 'Velocity', help: 'Kept, when what it reads has it; three times the size of a scalar.' }),
});
const CHANNELS = ['density', 'temperature', 'flame', 'fuel', 'colour', 'uvw', 'vel'] as const;
const keepsSome = (s: Readonly<Record<(typeof CHANNELS)[number], boolean>>): boolean => CHANNELS.some((c) => s[c]);
const KEEPS_SOME = { path: ['density'], error: 'at least one channel must be kept' };

export const resampleSettingsSchema = z
  .strictObject({
    voxelFactor: number(2, {
      title: 'Voxel factor',
      help: 'Voxel size of the result in voxel sizes of what it reads. 2 is an eighth of the voxels; below 1 it is finer, with no new detail.',
      min: 0.25,
      max: 32,
      step: 1.1,
      ratio: true,
    }),
    crop: boxSchema('crop box')
      .nullable()
      .default(null)
      .meta({ title: 'Crop box', help: 'Only what lies in it is kept.', none: 'all of it' }),
    everyNth: integer(1, {
      title: 'Every n-th frame',
      help: '2 keeps every other frame, counted from the first.',
      min: 1,
      max: 100,
      step: 1,
    }),
    cutOff: number(0, {
      title: 'Cut-off',
      help: 'Density below this is dropped, with all other channels there. What it takes is reported.',
      min: 0,
      max: 10,
      step: 0.01,
    }),
    ...keptFields(),
    ...fileFields(),
  })
  .refine(keepsSome, KEEPS_SOME);
export type ResampleSettings = z.output<typeof resampleSettingsSchema>;

/** Changes no result: kinds leave it out of what they compute. */
const mayMove = (initial: number) =>
  number(initial, {
    title: 'May move by',
    help: 'Part of its matter, seen at the voxels of what it reads, that may lie elsewhere before a finding says so. Changes no result.',
    min: 0.01,
    max: 2,
    step: 1.1,
    ratio: true,
  });

export const detailSettingsSchema = z
  .strictObject({
    factor: number(2, {
      title: 'Factor',
      help: 'How many times finer than what it reads: 2 is half the voxel size and about 8 times the voxels.',
      min: 1.5,
      max: 8,
      step: 1.1,
      ratio: true,
    }),
    strength: number(1, {
      title: 'Strength',
      help: 'Of the added eddies. 1 goes on from the eddies that it reads as turbulence does; 0 adds none.',
      min: 0,
      max: 20,
      step: 1.1,
      ratio: true,
    }),
    largest: number(3, {
      title: 'Largest size',
      help: 'Of the added eddies, in voxels of what it reads. Larger ones are there already.',
      min: 2,
      max: 32,
      step: 1.1,
      ratio: true,
    }),
    smallest: optional(null, {
      title: 'Smallest size',
      help: 'Of the added eddies, in voxels of what it reads. Smaller is finer grain.',
      none: '3 voxels of its own',
      min: 0.25,
      max: 16,
      step: 1.1,
      ratio: true,
    }),
    change: optional(null, {
      title: 'Changes in',
      help: 'Time in which the eddies become others while they go with the gas.',
      none: 'as it is stretched',
      unit: 'second',
      min: 0.05,
      max: 1000,
      step: 1.1,
      ratio: true,
    }),
    stretch: number(3, {
      title: 'Stretch limit',
      help: 'The pattern is renewed when the motion has drawn it out by this factor. Higher: longer streaks, fewer renewals.',
      min: 1.2,
      max: 20,
      step: 1.1,
      ratio: true,
    }),
    where: choice(
      'energy',
      { energy: 'Where eddies are', even: 'The same everywhere' },
      { title: 'Where', help: 'Follows the strength of the smallest eddies that it reads, or their mean over the matter.' },
    ),
    near: choice(
      'none',
      { none: 'Any value', density: 'Density near', temperature: 'Temperature near', flame: 'Flame near', fuel: 'Fuel near' },
      { title: 'Only where', help: 'A channel of what it reads lies near a value. Temperature: above what surrounds it.' },
    ),
    nearValue: number(1, { title: 'Value', help: 'Of that channel: here the strength is whole.', min: -1e6, max: 1e6, step: 0.1 }),
    nearSpread: number(0.5, {
      title: 'Spread of the value',
      help: 'So far from the value the strength has fallen to 60 %; twice as far, to 14 %.',
      min: 1e-6,
      max: 1e6,
      step: 1.1,
      ratio: true,
    }),
    region: boxSchema('region')
      .nullable()
      .default(null)
      .meta({ title: 'Region', help: 'Eddies are added inside only, fading out over two voxels of what it reads.', none: 'everywhere' }),
    hold: number(0.05, {
      title: 'Holds within',
      help: 'Time in which the fine matter, seen at the size of what it reads, goes back to it. Shorter: it stays nearer to what was approved.',
      unit: 'second',
      min: 0.001,
      max: 100,
      step: 1.1,
      ratio: true,
    }),
    seed: integer(1, { title: 'Seed', help: 'Other eddies by chance, everything else alike.', min: 0, max: 1e6, step: 1 }),
    mayMove: mayMove(0.25),
    limit: boxSchema('limit box').nullable().default(null).meta({
      title: 'Limit box',
      help: 'Nothing is computed outside of it. Set it for a folder that reaches out of the boxes of the solve.',
      none: 'that of the solve',
    }),
    ...keptFields(),
    ...fileFields(),
  })
  .refine(keepsSome, KEEPS_SOME)
  .refine((s) => s.smallest === null || s.smallest < s.largest, {
    path: ['smallest'],
    error: 'the smallest size must be below the largest',
  });
export type DetailSettings = z.output<typeof detailSettingsSchema>;

export const heldSettingsSchema = z.strictObject({
  factor: number(2, {
    title: 'Factor',
    help: 'How many times finer than what it is held to: 2 is half the voxel size and about 8 times the voxels.',
    min: 1,
    max: 8,
    step: 1.1,
    ratio: true,
  }),
  strength: number(1, {
    title: 'Strength',
    help: '1: the large motion goes over to the base within the time below. 0: a plain solve from the first frame of the base.',
    min: 0,
    max: 1,
    step: 0.05,
  }),
  time: number(0.05, {
    title: 'Time constant',
    help: 'In which the large motion goes over to that of the base. Shorter holds it nearer.',
    unit: 'second',
    min: 0.001,
    max: 100,
    step: 1.1,
    ratio: true,
  }),
  length: number(4, {
    title: 'Above size',
    help: 'Motion of this size and larger is held, in voxels of the base; smaller motion is free.',
    min: 2,
    max: 64,
    step: 1.1,
    ratio: true,
  }),
  mayMove: mayMove(0.4),
});
export type HeldSettings = z.output<typeof heldSettingsSchema>;

export const retimeSettingsSchema = z
  .strictObject({
    speed: number(0.5, {
      title: 'Speed',
      help: '0.5 is half as fast: twice the frames. 2 is twice as fast: half of them.',
      min: 0.02,
      max: 50,
      step: 1.1,
      ratio: true,
    }),
    ...keptFields(),
    ...fileFields(),
  })
  .refine(keepsSome, KEEPS_SOME);
export type RetimeSettings = z.output<typeof retimeSettingsSchema>;

export const particlesSettingsSchema = z.strictObject({
  source: z
    .string()
    .max(60)
    .nullable()
    .default(null)
    .meta({ title: 'Born on', help: 'A source of the shot, or a solid (on its surface), by its name.', none: 'every source' }),
  birth: choice(
    'volume',
    { volume: 'Through the volume', surface: 'On the surface' },
    { title: 'Where', help: 'Seeds are spread evenly: one in each cell, at a place by chance.' },
  ),
  perSecond: number(20000, {
    title: 'Born a second',
    help: 'All sources together, while they emit.',
    min: 1,
    max: 5e6,
    step: 1.2,
    ratio: true,
  }),
  life: number(3, { title: 'Age limit', help: 'Older ones are gone.', unit: 'second', min: 0.01, max: 1e4, step: 1.1, ratio: true }),
  lifeSpread: number(0.3, {
    title: 'Spread of the age limit',
    help: '0.3: limits lie between 0.7 and 1.3 times it.',
    min: 0,
    max: 0.95,
    step: 0.05,
  }),
  drag: optional(null, {
    title: 'Drag',
    help: 'How fast a particle takes on the velocity of the gas, per second. Low is heavy: it flies on.',
    none: 'goes exactly with the gas',
    min: 0.01,
    max: 1000,
    step: 1.1,
    ratio: true,
  }),
  weight: number(0, {
    title: 'Weight',
    help: 'Part of gravity that pulls it. Needs a drag: what goes exactly with the gas cannot sink.',
    min: -1,
    max: 1,
    step: 0.05,
  }),
  seed: integer(1, { title: 'Seed', help: 'Other places by chance, everything else alike.', min: 0, max: 1e6, step: 1 }),
});
export type ParticlesSettings = z.output<typeof particlesSettingsSchema>;

export const stillsSettingsSchema = z.strictObject({
  camera: z
    .string()
    .max(60)
    .nullable()
    .default(null)
    .meta({ title: 'Camera', help: 'A saved view of the shot, by its name.', none: 'from the front, all of it' }),
  width: integer(640, {
    title: 'Width',
    help: 'Of the picture, pixels; the height follows from the aspect of the camera.',
    min: 16,
    max: 4096,
    step: 16,
  }),
  extinction: number(4, {
    title: 'Extinction',
    help: 'Light that is lost a metre where the density is 1: exp(-extinction x density x metres) comes through.',
    min: 0,
    max: 1000,
    step: 1.1,
    ratio: true,
  }),
  emission: number(1, { title: 'Flame light', help: 'Light that flame gives off, a metre.', min: 0, max: 1000, step: 1.1, ratio: true }),
  step: number(0.5, {
    title: 'Step',
    help: 'Of the march, in voxels. Half a voxel misses nothing.',
    min: 0.05,
    max: 4,
    step: 1.1,
    ratio: true,
  }),
  pointRadius: number(0.01, {
    title: 'Point radius',
    help: 'Of a particle in the picture, where it reads particles.',
    unit: 'metre',
    min: 1e-5,
    max: 100,
    step: 1.2,
    ratio: true,
  }),
});
export type StillsSettings = z.output<typeof stillsSettingsSchema>;

const own = {
  id: z
    .string()
    .min(1)
    .max(40)
    .regex(/^[a-z0-9-]+$/, 'small letters, digits and hyphens')
    .meta({
      title: 'Id',
      help: 'By which other passes and the command line speak of it: small letters, digits and hyphens.',
      hidden: true,
    }),
  name: z.string().trim().min(1).max(60).meta({ title: 'Name', help: 'Yours; changes no result.' }),
};

const head = {
  ...own,
  enabled: z.boolean().default(true).meta({ title: 'On', help: 'Off: it is not started, and nothing is predicted of it.' }),
  input: passInputSchema.prefault({}),
};

/** The gas solve's id, as long as a shot has one of them: it is always there and always the first. */
export const SOLVE = 'solve';

const gasPassSchema = z.strictObject({ ...own, kind: z.literal('gas'), settings: gasSettingsSchema.prefault({}) });

/** A pass that reads the cache of one before it. */
export const passSchema = z.discriminatedUnion('kind', [
  z.strictObject({ ...head, kind: z.literal('resample'), settings: resampleSettingsSchema.prefault({}) }),
  z.strictObject({ ...head, kind: z.literal('detail'), settings: detailSettingsSchema.prefault({}) }),
  z.strictObject({ ...head, kind: z.literal('held'), settings: heldSettingsSchema.prefault({}) }),
  z.strictObject({ ...head, kind: z.literal('retime'), settings: retimeSettingsSchema.prefault({}) }),
  z.strictObject({ ...head, kind: z.literal('particles'), settings: particlesSettingsSchema.prefault({}) }),
  z.strictObject({ ...head, kind: z.literal('stills'), settings: stillsSettingsSchema.prefault({}) }),
]);
export type PassSettings = z.output<typeof passSchema>;
export type GasPass = z.output<typeof gasPassSchema>;
/** Kinds of passes that read others; and all kinds. */
export type FollowerKind = PassSettings['kind'];
export type PassKind = FollowerKind | GasPass['kind'];

/** A pass reads what stands before it in the list; ids are of one pass each. */
export const passesSchema = z
  .array(z.discriminatedUnion('kind', [gasPassSchema, ...passSchema.options]))
  .max(17)
  .superRefine((passes, context) => {
    const gas = passes.filter((p) => p.kind === 'gas').length;
    if (gas !== 1 || passes[0]?.kind !== 'gas' || passes[0].id !== SOLVE)
      context.addIssue({
        code: 'custom',
        path: [],
        message: `the first pass must be the gas solve, of id "${SOLVE}", and the only one of its kind`,
      });
    const before = new Set<string>();
    passes.forEach((p, n) => {
      if (before.has(p.id)) context.addIssue({ code: 'custom', path: [n, 'id'], message: `two passes have the id "${p.id}"` });
      if (p.kind !== 'gas' && !before.has(p.input.pass))
        context.addIssue({ code: 'custom', path: [n, 'input', 'pass'], message: `"${p.input.pass}" is no pass before this one` });
      before.add(p.id);
    });
  })
  .prefault([{ id: SOLVE, kind: 'gas', name: 'Solve' }]);
