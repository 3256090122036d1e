import * as z from 'zod';
import { choice } from './fields';

// Parts of settings that the solve and the passes after it have alike.

const corner = (title: string, of: string): z.ZodType<[number, number, number]> =>
  z.tuple([z.number(), z.number(), z.number()]).meta({ title, help: `Of the ${of}.`, unit: 'metre', step: 0.5 });

/** A box by its corners. */
export const boxSchema = (of: string) =>
  z
    .strictObject({ min: corner('Lowest corner', of), max: corner('Highest corner', of) })
    .refine((b) => b.min.every((v, n) => v < (b.max[n] ?? 0)), {
      error: 'the lowest corner must lie below the highest one on every axis',
    });

/** How the numbers of a .vdb file are kept. */
export const fileFields = () => ({
  precision: choice(
    'half',
    { half: 'Half floats', full: 'Full floats' },
    { title: 'Precision', help: 'Half floats are half the disk and enough for rendering.' },
  ),
  compression: choice(
    'blosc',
    { blosc: 'Blosc/LZ4', zip: 'Zip', none: 'None' },
    { title: 'Compression', help: 'Blosc/LZ4 is quick; zip is a little smaller and three times slower.' },
  ),
});
