import { flag, number } from './fields';

// What settings of several kinds of passes have in common.

/** Which channels of what is read are kept. */
export const keptFields = () => ({
  density: flag(true, { title: 'Density', help: 'Kept, when what it reads has it.' }),
  temperature: flag(true, { title: 'Temperature', help: 'Kept, when what it reads has it.' }),
  flame: flag(true, { title: 'Flame', help: 'Kept, when what it reads has it.' }),
  fuel: flag(false, { title: 'Fuel', help: 'Kept, when what it reads has it.' }),
  colour: flag(true, { title: 'Colour', help: 'Kept, when what it reads has it.' }),
  uvw: flag(false, { title: 'Texture coordinates', help: 'Kept, when what it reads has them.' }),
  vel: flag(true, { title: 'Velocity', help: 'Kept, when what it reads has it; three times the size of a scalar.' }),
});
const CHANNELS = ['density', 'temperature', 'flame', 'fuel', 'colour', 'uvw', 'vel'] as const;
export const keepsSome = (s: Readonly<Record<(typeof CHANNELS)[number], boolean>>): boolean => CHANNELS.some((c) => s[c]);
export const KEEPS_SOME = { path: ['density'], error: 'at least one channel must be kept' };

/** Changes no result: kinds leave it out of what they compute. */
export const mayMove = (initial: number) =>
  number(initial, {
    title: 'May move by',
    help: 'Part of its matter, seen at the voxels of what it reads, that may lie elsewhere before a finding says so. Changes no result.',
    min: 0.01,
    max: 2,
    step: 1.1,
    ratio: true,
  });
