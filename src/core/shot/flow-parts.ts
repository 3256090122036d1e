import * as z from 'zod';
import { choice, flag, integer, number } from './fields';
import { boxSchema } from './parts';

// Groups of settings that solves of every kind have alike.

type Side = 'open' | 'closed';

const wall = (initial: Side, title: string): ReturnType<typeof choice<{ open: string; closed: string }>> =>
  choice(
    initial,
    { open: 'Open', closed: 'Closed' },
    { title, help: 'Open: matter leaves there. Closed: a solid wall, at the limit box itself.' },
  );

export const limitBox = boxSchema('limit box');

/** The six sides of the limit box; `ceiling` apart, for what is poured from above. */
export const wallsSchema = (initial: Side, ceiling: Side = initial) =>
  z.strictObject({
    left: wall(initial, 'Left (-x)'),
    right: wall(initial, 'Right (+x)'),
    floor: wall(initial, 'Floor (-y)'),
    ceiling: wall(ceiling, 'Ceiling (+y)'),
    back: wall(initial, 'Back (-z)'),
    front: wall(initial, 'Front (+z)'),
  });

/** How often, and how exactly. */
export const steppingSchema = (mostSubsteps: number) =>
  z
    .strictObject({
      cfl: number(2, {
        title: 'CFL number',
        help: 'Voxels that the fastest matter may cross in a substep. Lower is truer and slower; above 4 detail smears.',
        min: 0.1,
        max: 7,
        step: 0.1,
      }),
      minSubsteps: integer(1, {
        title: 'Fewest substeps',
        help: 'In a frame, however slow the matter is. Raise it when a source leaves gaps.',
        min: 1,
        max: 64,
        step: 1,
      }),
      maxSubsteps: integer(mostSubsteps, {
        title: 'Most substeps',
        help: 'In a frame. Where it binds, matter crosses more voxels than the CFL number says.',
        min: 1,
        max: 64,
        step: 1,
      }),
      tolerance: number(1e-4, {
        title: 'Pressure tolerance',
        help: 'Relative residual of the pressure. Smaller keeps volume better and costs iterations; below 0.00001 float rounding rules.',
        min: 1e-5,
        max: 0.1,
        step: 1.5,
        ratio: true,
      }),
      iterations: integer(100, {
        title: 'Most iterations',
        help: 'Of one pressure solve. About 5 are usual.',
        min: 1,
        max: 1000,
        step: 1,
      }),
      firstFrameSolved: flag(false, {
        title: 'Solve the first frame',
        help: 'Off: the first frame holds only what the sources put there.',
      }),
    })
    .refine((s) => s.minSubsteps <= s.maxSubsteps, { path: ['minSubsteps'], error: 'the fewest substeps must not be more than the most' });
