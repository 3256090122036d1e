import * as z from 'zod';
import { choice, integer, number, optional } from './fields';

// Settings of passes that make or draw points.

/** How particles that are born live and fly. */
const flightFields = (life: number) => ({
  life: number(life, { title: 'Age limit', help: 'Older ones are gone.', unit: 'second', min: 0.01, max: 1e4, step: 1.1, ratio: true }),
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
  ...flightFields(3),
});
export type ParticlesSettings = z.output<typeof particlesSettingsSchema>;

export const refillSettingsSchema = z.strictObject({
  births: choice(
    'steady',
    { steady: 'All the time', once: 'When it is new' },
    {
      title: 'Born',
      help: 'Around each particle that is read: as long as it is there, or all at once at the first frame that has it (by its number).',
    },
  ),
  perSecond: number(100, {
    title: 'Born a second',
    help: 'Around each particle that is read.',
    min: 0.01,
    max: 1e6,
    step: 1.2,
    ratio: true,
  }),
  each: number(100, {
    title: 'Born around each',
    help: 'Of the particles that are read. 0.5: around every other one.',
    min: 0.01,
    max: 1e5,
    step: 1.2,
    ratio: true,
  }),
  radius: number(0.05, {
    title: 'Radius',
    help: 'They are born within it, evenly; 0: where the particle is.',
    unit: 'metre',
    min: 0,
    max: 1000,
    step: 1.1,
    ratio: true,
  }),
  ...flightFields(1),
});
export type RefillSettings = z.output<typeof refillSettingsSchema>;

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
