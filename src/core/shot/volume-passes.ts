import * as z from 'zod';
import { choice, integer, number, optional } from './fields';
import { boxSchema, fileFields } from './parts';
import { KEEPS_SOME, keepsSome, keptFields, mayMove } from './pass-fields';

// Settings of passes that make volumes of volumes without solving anew.

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
