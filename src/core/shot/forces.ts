import * as z from 'zod';
import { flag, integer, number, optional, vector } from './fields';
import { SHAPE_NAMES, shapeSchema } from './items';
import { checkMoves, movesSchema } from './moves-schema';

const strength = number(2, {
  title: 'Strength',
  moves: true,
  help: 'Root mean square acceleration of the eddies.',
  unit: 'acceleration',
  min: 0,
  max: 1000,
  step: 0.1,
});
const eddies = {
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
};

/** What every force of the list has. */
const common = {
  name: z.string().trim().min(1).max(60).default('Force').meta({ title: 'Name', help: 'Yours; changes no result.' }),
  hidden: flag(false, { title: 'Hidden', help: 'Left out of runs and of the viewport, but kept on the sheet.', hidden: true }),
  shape: shapeSchema.nullable().default(null).meta({
    title: 'Region',
    help: 'Where it acts: a shape that can be placed and moved like a source.',
    none: 'everywhere',
    names: SHAPE_NAMES,
  }),
  soft: number(0.5, {
    title: 'Soft edge',
    help: 'Width over which it fades across the surface of its region. A hard edge makes a sheet of curls.',
    unit: 'metre',
    min: 0,
    max: 1000,
    step: 0.05,
  }),
  moves: movesSchema,
};

const time = (initial: number, help: string): ReturnType<typeof number> =>
  number(initial, { title: 'Takes hold in', help, unit: 'second', min: 0.01, max: 1000, step: 1.1, ratio: true });

const fieldKinds = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('turbulence'), ...common, strength, ...eddies }),
  z.strictObject({
    kind: z.literal('draught'),
    ...common,
    velocity: vector([2, 0, 0], {
      title: 'Velocity',
      moves: true,
      help: 'That the air takes up in the region: a fan, a door that lets the wind in.',
      unit: 'speed',
      min: -200,
      max: 200,
      step: 0.1,
    }),
    time: time(0.5, 'Seconds in which the air takes it up.'),
  }),
  z.strictObject({
    kind: z.literal('guide'),
    ...common,
    shape: shapeSchema
      .nullable()
      .default({ kind: 'ball', centre: [0, 1, 0], radius: 0.5 })
      .meta({
        title: 'Shape',
        help: 'A shape or an imported mesh whose own motion is lent: what lies in it, or near it by its soft edge, goes along. Move it by keys, an expression or its animation.',
        none: 'none: nothing is lent',
        names: SHAPE_NAMES,
      }),
    factor: number(1, {
      title: 'Factor',
      moves: true,
      help: "Of the guide's velocity: 1 goes along with it, 0 holds still, below 0 goes against it.",
      min: -10,
      max: 10,
      step: 0.1,
    }),
    time: time(0.1, 'Seconds in which matter takes it up.'),
  }),
  z.strictObject({ kind: z.literal('drag'), ...common, time: time(1, 'Seconds after which 1/e of the motion against the wind is left.') }),
  z.strictObject({
    kind: z.literal('attraction'),
    ...common,
    centre: vector([0, 1, 0], {
      title: 'Point',
      moves: true,
      help: 'Matter is drawn towards it; below 0 strength it is pushed away.',
      unit: 'metre',
      min: -1e5,
      max: 1e5,
      step: 0.1,
    }),
    strength: number(5, {
      title: 'Strength',
      moves: true,
      help: 'Acceleration of matter of density 1 where the pull is largest, at the reach. Clear air is not pulled: its pressure would hold it back.',
      unit: 'acceleration',
      min: -1000,
      max: 1000,
      step: 0.5,
    }),
    reach: number(1, {
      title: 'Reach of the pull',
      help: 'Distance at which it is largest; it falls to nothing at the point, and slowly further out.',
      unit: 'metre',
      min: 0.01,
      max: 1000,
      step: 1.1,
      ratio: true,
    }),
  }),
  z.strictObject({
    kind: z.literal('curls'),
    ...common,
    confinement: number(0.3, {
      title: 'Vorticity confinement',
      moves: true,
      help: 'Gives curls back in the region, on top of what acts everywhere; its length is the one below.',
      min: 0,
      max: 5,
      step: 0.05,
    }),
  }),
]);

export const FIELD_KINDS = {
  turbulence: 'Turbulence',
  draught: 'Draught',
  guide: 'Guide',
  drag: 'Drag',
  attraction: 'Attraction',
  curls: 'Curls',
} as const satisfies Record<z.output<typeof fieldKinds>['kind'], string>;

/** One more force. Its moves are checked against its own kind. */
export const forceFieldSchema = fieldKinds.superRefine((field, context) => {
  const own = (fieldKinds.options as readonly z.ZodObject[]).find((o) => (o.shape as { kind?: z.ZodLiteral }).kind?.value === field.kind);
  if (own) checkMoves(() => own)(field, context);
});

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
      help: 'Seconds in which still air takes up the wind, along its direction. Short: plumes bend sharply. What moves across the wind, a rise above all, is not slowed by it; without wind nothing is.',
      unit: 'second',
      none: 'not at all',
      min: 0.01,
      max: 1000,
      step: 1.1,
      ratio: true,
    }),
    turbulence: z
      .strictObject({
        strength: strength.meta({ ...strength.meta(), title: 'Turbulence' }),
        ...eddies,
      })
      .nullable()
      .default(null)
      .meta({ title: 'Turbulence field', help: 'Eddies that push the gas, carried along by the wind.', none: 'none' }),
    fields: z.array(forceFieldSchema).max(16).default([]).meta({
      title: 'More forces',
      help: 'Turbulence, draughts, guides, drag, attraction and curls, each in a region of its own or everywhere.',
      hidden: true,
    }),
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
