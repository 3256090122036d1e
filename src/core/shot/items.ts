import { z } from 'zod';
import { choice, flag, integer, number, optional, optionalInteger, optionalVector, vector } from './fields';
import { checkMoves, movesSchema } from './moves-schema';

const FAR = 1e5;
const rotation = vector([0, 0, 0], {
  title: 'Turn',
  help: 'Turned about x, then y, then z.',
  unit: 'degree',
  min: -360,
  max: 360,
  step: 5,
  moves: true,
});
const centre = vector([0, 1, 0], {
  title: 'Centre',
  help: 'Where its middle is.',
  unit: 'metre',
  min: -FAR,
  max: FAR,
  step: 0.1,
  moves: true,
});
const radius = number(0.5, {
  title: 'Radius',
  help: 'From the axis or the middle to the outside.',
  unit: 'metre',
  min: 1e-3,
  max: FAR,
  step: 1.1,
  ratio: true,
});

export const shapeSchema = z
  .discriminatedUnion('kind', [
    z.strictObject({
      kind: z.literal('box'),
      centre,
      size: vector([1, 1, 1], { title: 'Size', help: 'Edge lengths.', unit: 'metre', min: 1e-3, max: FAR, step: 0.1 }),
      rotation,
    }),
    z.strictObject({ kind: z.literal('ball'), centre, radius }),
    z.strictObject({
      kind: z.literal('cylinder'),
      centre,
      radius,
      height: number(1, {
        title: 'Height',
        help: 'Along its own axis, which stands upright before it is turned.',
        unit: 'metre',
        min: 1e-3,
        max: FAR,
        step: 1.1,
        ratio: true,
      }),
      rotation,
    }),
  ])
  .meta({ title: 'Shape', help: 'Box, ball or cylinder.', names: { box: 'Box', ball: 'Ball', cylinder: 'Cylinder' } });

const name = z.string().trim().min(1).max(60);

export const noiseSchema = z.strictObject({
  amount: number(0.6, {
    title: 'Noise',
    moves: true,
    help: 'How much emission varies: 0 steady, 1 between nothing and twice as much. Breaks up a smooth plume; costs nothing.',
    min: 0,
    max: 1,
    step: 0.05,
  }),
  size: number(0.4, {
    title: 'Noise size',
    help: 'Size of its largest features. Below about 3 voxels it is not seen.',
    unit: 'metre',
    min: 1e-3,
    max: 1000,
    step: 1.1,
    ratio: true,
  }),
  change: number(0.4, {
    title: 'Noise change',
    help: 'Seconds in which the pattern becomes another. Short: flickering puffs.',
    unit: 'second',
    min: 0.01,
    max: 1000,
    step: 1.1,
    ratio: true,
  }),
  octaves: integer(3, { title: 'Octaves', help: 'Each adds detail of half the size.', min: 1, max: 6, step: 1 }),
  seed: integer(1, { title: 'Seed', help: 'Another number, another pattern.', min: 0, max: 1e6, step: 1 }),
});

const turnsAbout = (): ReturnType<typeof optionalVector> =>
  optionalVector(null, {
    title: 'Turns about',
    help: 'Point that a moving turn goes round, where the hinge is; it takes part in the motion of the centre.',
    unit: 'metre',
    none: 'its centre',
    min: -FAR,
    max: FAR,
    step: 0.1,
  });

export const sourceSchema = z
  .strictObject({
    name: name.default('Source').meta({ title: 'Name', help: 'Yours; changes no result.' }),
    hidden: flag(false, { title: 'Hidden', help: 'Left out of runs and of the viewport, but kept on the sheet.', hidden: true }),
    shape: shapeSchema,
    shell: optional(null, {
      title: 'Surface only',
      help: 'Emits from a skin this thick on its surface instead of from its whole volume: hollow smoke, less of it.',
      unit: 'metre',
      none: 'whole volume',
      min: 1e-3,
      max: 1000,
      step: 1.1,
      ratio: true,
    }),
    mode: choice(
      'set',
      { set: 'Holds', add: 'Adds each second', blend: 'Approaches' },
      { title: 'Emits by', help: 'Holds the amounts inside it, adds them each second, or approaches them with a time constant.' },
    ),
    density: optional(1, {
      title: 'Density',
      moves: true,
      help: 'Inside it; a second when adding.',
      none: 'not touched',
      min: -1000,
      max: 1000,
      step: 0.05,
    }),
    heat: optional(150, {
      title: 'Heat',
      moves: true,
      help: 'Kelvin above ambient; a second when adding. Below 0 is colder, and sinks.',
      unit: 'kelvinDifference',
      none: 'not touched',
      min: -273,
      max: 4000,
      step: 10,
    }),
    fuel: optional(null, {
      title: 'Fuel',
      moves: true,
      help: 'Inside it; a second when adding. Burns when Matter has a fire and it is hot enough.',
      none: 'not touched',
      min: -1000,
      max: 1000,
      step: 0.05,
    }),
    velocity: optionalVector(null, {
      title: 'Velocity',
      moves: true,
      help: 'Of the gas inside it; a second when adding. Fast sources need more substeps.',
      unit: 'speed',
      none: 'not touched',
      min: -500,
      max: 500,
      step: 0.1,
    }),
    blendTime: number(0.1, {
      title: 'Approach time',
      help: 'Only when it approaches: seconds to come within 1/e.',
      unit: 'second',
      min: 1e-3,
      max: 100,
      step: 1.1,
      ratio: true,
    }),
    noise: noiseSchema
      .nullable()
      .default(null)
      .meta({ title: 'Noise on emission', help: 'Varies what is emitted in space and time.', none: 'steady' }),
    from: optionalInteger(null, {
      title: 'From frame',
      help: 'First frame in which it emits; pre-roll counts backwards from the first frame.',
      none: 'the start',
      min: -1e5,
      max: 1e5,
      step: 1,
    }),
    to: optionalInteger(null, { title: 'To frame', help: 'Last frame in which it emits.', none: 'the end', min: -1e5, max: 1e5, step: 1 }),
    inherits: number(1, {
      title: 'Own motion passed on',
      help: 'Part of the velocity of a moving source that its gas takes along. 0: it is left behind.',
      min: -5,
      max: 5,
      step: 0.1,
    }),
    turnsAbout: turnsAbout(),
    moves: movesSchema,
  })
  .superRefine(checkMoves(() => sourceSchema));

export const solidSchema = z
  .strictObject({
    name: name.default('Solid').meta({ title: 'Name', help: 'Yours; changes no result.' }),
    hidden: flag(false, { title: 'Hidden', help: 'Left out of runs and of the viewport, but kept on the sheet.', hidden: true }),
    shape: shapeSchema,
    turnsAbout: turnsAbout(),
    moves: movesSchema,
  })
  .superRefine(checkMoves(() => solidSchema));
