import { z } from 'zod';
import { integer, number, optional, vector } from './fields';
import { checkMoves, movesSchema } from './moves-schema';

export const forcesSchema = z
  .strictObject({
    wind: vector([0, 0, 0], {
      title: 'Wind',
      moves: true,
      help: 'Speed of the air at the start and outside the bounds.',
      unit: 'speed',
      min: -200,
      max: 200,
      step: 0.1,
    }),
    windTime: optional(2, {
      title: 'Wind takes hold in',
      help: 'Seconds in which still air takes up the wind. Short: plumes bend sharply.',
      unit: 'second',
      none: 'not at all',
      min: 0.01,
      max: 1000,
      step: 1.1,
      ratio: true,
    }),
    turbulence: z
      .strictObject({
        strength: number(2, {
          title: 'Turbulence',
          moves: true,
          help: 'Root mean square acceleration of the eddies.',
          unit: 'acceleration',
          min: 0,
          max: 1000,
          step: 0.1,
        }),
        size: number(1, {
          title: 'Eddy size',
          help: 'Of the largest eddies; four of them and the pattern repeats.',
          unit: 'metre',
          min: 0.01,
          max: 1000,
          step: 1.1,
          ratio: true,
        }),
        change: number(2, {
          title: 'Eddy change',
          help: 'Seconds in which the pattern turns once.',
          unit: 'second',
          min: 0.05,
          max: 1000,
          step: 1.1,
          ratio: true,
        }),
        octaves: integer(3, { title: 'Octaves', help: 'Each adds eddies of half the size.', min: 1, max: 4, step: 1 }),
        seed: integer(1, { title: 'Seed', help: 'Another number, another pattern.', min: 0, max: 1e6, step: 1 }),
      })
      .nullable()
      .default(null)
      .meta({ title: 'Turbulence field', help: 'Eddies that push the gas, carried along by the wind.', none: 'none' }),
    confinement: number(0, {
      title: 'Vorticity confinement',
      moves: true,
      help: 'Gives curls back what the grid smears. Over about 0.5 it shreds.',
      min: 0,
      max: 5,
      step: 0.05,
    }),
    confinementLength: number(0.1, {
      title: 'Confinement length',
      help: 'Length its strength is meant for; in metres, so that rungs agree.',
      unit: 'metre',
      min: 1e-3,
      max: 100,
      step: 1.1,
      ratio: true,
    }),
    moves: movesSchema,
  })
  .superRefine(checkMoves(() => forcesSchema));
