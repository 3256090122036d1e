import * as z from 'zod';
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
  moves: true,
  help: 'From the axis or the middle to the outside.',
  unit: 'metre',
  min: 1e-3,
  max: FAR,
  step: 1.1,
  ratio: true,
});

const corner = z.tuple([z.number(), z.number(), z.number()]);

/** Of something that was imported. */
const fingerprint = (title: string, help: string): z.ZodString =>
  z
    .string()
    .regex(/^[0-9a-f]{64}$/, `the fingerprint of an imported ${title.toLowerCase()}, 64 hexadecimal digits`)
    .meta({ title, help, hidden: true });

/** What an import knows of a file: not edited by hand. */
const meshSchema = z.strictObject({
  kind: z.literal('mesh'),
  geometry: fingerprint('Geometry', 'SHA-256 of the imported geometry.'),
  file: z.string().min(1).max(200).meta({ title: 'File', help: 'Name of the file that it came from.', hidden: true }),
  extent: z
    .strictObject({ min: corner, max: corner })
    .meta({ title: 'Extent', help: 'All that it covers, in file units around its middle.', hidden: true }),
  seconds: z.number().min(0).max(1e5).default(0).meta({ title: 'Animation', help: 'Seconds of its own animation.', hidden: true }),
  centre,
  rotation,
  scale: number(1, {
    title: 'Metres a file unit',
    help: 'Turns the file into metres, all axes alike. 0.01 for a file in centimetres.',
    min: 1e-6,
    max: 1e6,
    step: 1.1,
    ratio: true,
  }),
  content: z
    .enum(['mesh', 'distance', 'points'])
    .default('mesh')
    .meta({ title: 'Content', help: 'What the file holds: triangles, a signed distance, or points.', hidden: true }),
  pointRadius: optional(null, {
    title: 'Point radius',
    help: 'Of the ball that each point stands for.',
    unit: 'metre',
    none: 'as in the file',
    min: 1e-3,
    max: 1000,
    step: 1.1,
    ratio: true,
  }),
  pick: choice(
    'all',
    { all: 'All points', speed: 'Speed above', acceleration: 'Acceleration above', age: 'Age above' },
    { title: 'Points', help: 'Which points emit: all, or those whose attribute is above a value.' },
  ),
  above: number(0, { title: 'Above', help: 'In metres and seconds: m/s, m/s², s.', min: -1e6, max: 1e6, step: 0.5 }),
  insideOut: flag(false, {
    title: 'Inside out',
    help: 'Swaps its inside and its outside: for signed distances of the other convention, and rooms that were modelled as solids.',
  }),
  starts: optionalInteger(null, {
    title: 'Animation from frame',
    help: 'Frame at which its own animation begins; before it stands still in its first pose, after its end in its last.',
    none: 'the first frame',
    min: -1e5,
    max: 1e5,
    step: 1,
  }),
  pace: number(1, {
    title: 'Pace',
    help: 'Of its own animation: 2 runs twice as fast, 0 holds it.',
    min: 0,
    max: 100,
    step: 1.1,
    ratio: true,
  }),
});

export const SHAPE_NAMES = { box: 'Box', ball: 'Ball', cylinder: 'Cylinder', mesh: 'From a file' } as const;

export const shapeSchema = z
  .discriminatedUnion('kind', [
    z.strictObject({
      kind: z.literal('box'),
      centre,
      size: vector([1, 1, 1], { title: 'Size', moves: true, help: 'Edge lengths.', unit: 'metre', min: 1e-3, max: FAR, step: 0.1 }),
      rotation,
    }),
    z.strictObject({ kind: z.literal('ball'), centre, radius }),
    z.strictObject({
      kind: z.literal('cylinder'),
      centre,
      radius,
      height: number(1, {
        title: 'Height',
        moves: true,
        help: 'Along its own axis, which stands upright before it is turned.',
        unit: 'metre',
        min: 1e-3,
        max: FAR,
        step: 1.1,
        ratio: true,
      }),
      rotation,
    }),
    meshSchema,
  ])
  .meta({
    title: 'Shape',
    help: 'Box, ball, cylinder, or geometry from a file.',
    names: SHAPE_NAMES,
  });

export const itemName = z.string().trim().min(1).max(60);
const name = itemName;

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

const maskSchema = z.strictObject({
  picture: fingerprint('Picture', 'SHA-256 of the imported picture.'),
  file: z.string().max(200).default('').meta({ title: 'File', help: 'What the picture was called; changes no result.', hidden: true }),
  from: choice(
    'above',
    { front: 'The front', right: 'The right', above: 'Above' },
    { title: 'Thrown from', help: "In the source's own turn. From above, the picture's upper edge lies at the back." },
  ),
  inverted: flag(false, { title: 'Inverted', help: 'Emits where the picture is dark.' }),
});

export const turnsAbout = (): ReturnType<typeof optionalVector> =>
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
      none: 'unchanged',
      min: -1000,
      max: 1000,
      step: 0.05,
    }),
    heat: optional(150, {
      title: 'Heat',
      moves: true,
      help: 'Kelvin above ambient; a second when adding. Below 0 is colder, and sinks.',
      unit: 'kelvinDifference',
      none: 'unchanged',
      min: -273,
      max: 4000,
      step: 10,
    }),
    fuel: optional(null, {
      title: 'Fuel',
      moves: true,
      help: 'Inside it; a second when adding. Burns when Matter has a fire and it is hot enough.',
      none: 'unchanged',
      min: -1000,
      max: 1000,
      step: 0.05,
    }),
    colour: vector([1, 1, 1], {
      title: 'Colour',
      help: 'Of the density that it gives; counts where Matter carries colour. Where smokes mix, so do their colours.',
      colour: true,
      min: 0,
      max: 1,
      step: 0.05,
    }),
    velocity: optionalVector(null, {
      title: 'Velocity',
      moves: true,
      help: 'Of the gas inside it; a second when adding. Fast sources need more substeps.',
      unit: 'speed',
      none: 'unchanged',
      min: -500,
      max: 500,
      step: 0.1,
    }),
    byDensity: flag(false, {
      title: 'Velocity by density',
      help: 'Gives as much of the velocity as there is density at a place: thin parts of a noisy source are left to the air around.',
    }),
    stir: z
      .strictObject({
        speed: number(0.5, {
          title: 'Stirring',
          moves: true,
          help: 'Root mean square speed of the curls that it gives its gas, on top of its velocity; a second when adding.',
          unit: 'speed',
          min: 0,
          max: 200,
          step: 0.1,
        }),
        size: number(0.4, {
          title: 'Curl size',
          help: 'Of its largest curls. Below about 4 voxels they are lost.',
          unit: 'metre',
          min: 1e-3,
          max: 1000,
          step: 1.1,
          ratio: true,
        }),
        change: number(0.5, {
          title: 'Curl change',
          help: 'Seconds in which the pattern turns once.',
          unit: 'second',
          min: 0.01,
          max: 1000,
          step: 1.1,
          ratio: true,
        }),
        octaves: integer(2, { title: 'Octaves', help: 'Each adds curls of half the size.', min: 1, max: 4, step: 1 }),
        seed: integer(1, { title: 'Seed', help: 'Another number, another pattern.', min: 0, max: 1e6, step: 1 }),
      })
      .nullable()
      .default(null)
      .meta({ title: 'Curl noise on velocity', help: 'Stirs what it emits: curls without sources or sinks.', none: 'none' }),
    contact: z
      .strictObject({
        reach: number(0.15, {
          title: 'Contact reach',
          help: 'It emits within this distance of a solid, most at its surface.',
          unit: 'metre',
          min: 1e-3,
          max: 1000,
          step: 1.1,
          ratio: true,
        }),
        trail: optional(0.5, {
          title: 'Trail',
          help: 'Seconds after which a place that was touched emits 1/e of what it did.',
          unit: 'second',
          none: 'ends with contact',
          min: 0.01,
          max: 1000,
          step: 1.1,
          ratio: true,
        }),
      })
      .nullable()
      .default(null)
      .meta({
        title: 'Only near solids',
        help: 'Dust from where a thing touches or scrapes: emits where it is near any solid.',
        none: 'everywhere',
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
    mask: maskSchema.nullable().default(null).meta({
      title: 'Mask on emission',
      help: 'A picture that is thrown through its box: it emits where the picture is bright.',
      none: 'everywhere',
      fromFile: 'picture',
    }),
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
    body: choice(
      'filled',
      { filled: 'Filled', hollow: 'Hollow container', thin: 'Thin wall' },
      {
        title: 'Body',
        help: 'Filled: nothing gets in. Hollow: a wall inwards from its surface, with room inside. Thin wall: a skin on both sides, for open sheets.',
      },
    ),
    thickness: number(0.1, {
      title: 'Wall thickness',
      help: 'Of a hollow or thin body. Under two voxels a wall leaks in places.',
      unit: 'metre',
      min: 1e-3,
      max: 1000,
      step: 1.1,
      ratio: true,
    }),
    offset: number(0, {
      title: 'Contact offset',
      help: 'Voxels by which it is grown where matter meets it; below 0 it shrinks. 0.5 hides a gap, and a rung keeps it in voxels.',
      min: -4,
      max: 8,
      step: 0.1,
    }),
    widen: choice(
      'liquids',
      { liquids: 'For liquids', always: 'Always', never: 'Never' },
      {
        title: 'Widen to the voxels',
        help: 'A solid thinner than two voxels is met as two voxels thick, so that liquid neither leaks through it nor is crushed; with finer voxels it keeps its own thickness.',
      },
    ),
    voxelSize: optional(null, {
      title: 'Own voxel size',
      help: 'Between the samples of an imported surface; grows with the rung. Finer than the voxels of the bounds it costs time and gains nothing.',
      unit: 'metre',
      none: 'as the bounds',
      min: 1e-4,
      max: 100,
      step: 1.05,
      ratio: true,
    }),
    turnsAbout: turnsAbout(),
    moves: movesSchema,
  })
  .superRefine(checkMoves(() => solidSchema));
