import * as z from 'zod';
import { choice, flag, integer, number, optional, optionalInteger, vector } from './fields';
import { SCALAR_ADVECTION, VELOCITY_ADVECTION } from './matter';
import { mayMove } from './pass-fields';

// Settings of passes that solve the sheet anew, with a cache to lean on.

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
  confinement: optional(null, {
    title: 'Vorticity confinement',
    help: 'Of this solve alone: a finer grid smears less by itself and needs less of it.',
    none: 'as on the sheet',
    min: 0,
    max: 5,
    step: 0.05,
  }),
  velocityAdvection: choice('sheet', { sheet: 'As on the sheet', ...VELOCITY_ADVECTION } as const, {
    title: 'Advection of velocity',
    help: 'Of this solve alone.',
  }),
  scalarAdvection: choice('sheet', { sheet: 'As on the sheet', ...SCALAR_ADVECTION } as const, {
    title: 'Advection of density',
    help: 'Of this solve alone.',
  }),
  cfl: optional(null, {
    title: 'CFL number',
    help: 'Of this solve alone: voxels that the fastest gas may cross in a substep.',
    none: 'as on the sheet',
    min: 0.25,
    max: 20,
    step: 0.25,
  }),
  mayMove: mayMove(0.4),
});
export type HeldSettings = z.output<typeof heldSettingsSchema>;

/** How far a particle reaches, metres. */
const radius = (title: string, what: string) =>
  optional(null, {
    title,
    help: `So far around itself ${what}; falls off towards it.`,
    none: 'two voxels',
    unit: 'metre',
    min: 1e-4,
    max: 1000,
    step: 1.1,
    ratio: true,
  });

/** What particles are tested by. */
const TESTS = { all: 'All of them', age: 'Age', part: 'Part of the age limit', speed: 'Speed', number: 'Number' } as const;

export const fedSettingsSchema = z
  .strictObject({
    sources: flag(true, { title: 'Sources of the sheet', help: 'They emit too. Off: the particles are all there is.' }),
    test: choice('all', TESTS, {
      title: 'Which particles',
      help: 'Those whose age (seconds), part of the age limit (0 to 1), speed (m/s) or number lies in a range.',
    }),
    least: optional(null, {
      title: 'At least',
      help: 'Of that: lower ones give nothing.',
      none: 'no lower end',
      min: -1e9,
      max: 1e9,
      step: 0.1,
    }),
    most: optional(null, {
      title: 'At most',
      help: 'Of that: higher ones give nothing.',
      none: 'no upper end',
      min: -1e9,
      max: 1e9,
      step: 0.1,
    }),
    share: number(1, {
      title: 'Share',
      help: 'Of those, chosen by chance and the same in all frames: 0.1 is every tenth or so.',
      min: 1e-6,
      max: 1,
      step: 1.1,
      ratio: true,
    }),
    from: optionalInteger(null, {
      title: 'From frame',
      help: 'First frame at which they give something.',
      none: 'their first',
      min: -1e6,
      max: 1e6,
      step: 1,
    }),
    to: optionalInteger(null, {
      title: 'To frame',
      help: 'Last frame at which they give something.',
      none: 'their last',
      min: -1e6,
      max: 1e6,
      step: 1,
    }),
    density: optional(4, {
      title: 'Density a second',
      help: 'Given where they are dense enough to cover a voxel, less where they are few.',
      none: 'none',
      min: -1e4,
      max: 1e4,
      step: 0.1,
    }),
    densityRadius: radius('Density radius', 'a particle gives density'),
    heat: optional(null, {
      title: 'Heat a second',
      help: 'Kelvin that gas there is warmed by, each second.',
      none: 'none',
      min: -1e5,
      max: 1e5,
      step: 10,
    }),
    heatRadius: radius('Heat radius', 'a particle gives heat'),
    inherits: number(1, {
      title: 'Inherited velocity',
      help: 'Part of the velocity of the particles that gas around them takes on. 0: none.',
      min: -10,
      max: 10,
      step: 0.05,
    }),
    velocitySpread: number(0, {
      title: 'Spread of the velocity',
      help: 'By chance, another for each particle, in any direction: as a part of its speed.',
      min: 0,
      max: 10,
      step: 0.05,
    }),
    within: number(0.05, {
      title: 'Takes on within',
      help: 'Time in which the gas takes on the velocity. Longer: it is dragged along.',
      unit: 'second',
      min: 0.001,
      max: 100,
      step: 1.1,
      ratio: true,
    }),
    velocityRadius: radius('Velocity radius', 'a particle moves the gas'),
    colour: vector([0.8, 0.8, 0.8], {
      title: 'Colour',
      help: 'Of the density that they give, where colour is carried.',
      colour: true,
      min: 0,
      max: 100,
      step: 0.05,
    }),
    seed: integer(1, { title: 'Seed', help: 'Of the share and of the spread.', min: 0, max: 1e6, step: 1 }),
  })
  .refine((s) => s.least === null || s.most === null || s.least <= s.most, {
    path: ['most'],
    error: 'the upper end must not be below the lower one',
  })
  .refine((s) => s.density !== null || s.heat !== null || s.inherits !== 0 || s.sources, {
    path: ['density'],
    error: 'the particles give nothing: density, heat or velocity',
  });
export type FedSettings = z.output<typeof fedSettingsSchema>;
