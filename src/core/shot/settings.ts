import { z } from 'zod';
import { choice, flag, integer, number, optional, optionalInteger, optionalVector, vector } from './fields';

const FAR = 1e5;
const rotation = vector([0, 0, 0], {
  title: 'Turn',
  help: 'Turned about x, then y, then z.',
  unit: 'degree',
  min: -360,
  max: 360,
  step: 5,
});
const centre = vector([0, 1, 0], { title: 'Centre', help: 'Where its middle is.', unit: 'metre', min: -FAR, max: FAR, step: 0.1 });
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

export const sourceSchema = z.strictObject({
  name: name.default('Source').meta({ title: 'Name', help: 'Yours; changes no result.' }),
  hidden: flag(false, { title: 'Hidden', help: 'Left out of runs and of the viewport, but kept on the sheet.', hidden: true }),
  shape: shapeSchema,
  mode: choice(
    'set',
    { set: 'Holds', add: 'Adds each second', blend: 'Approaches' },
    { title: 'Emits by', help: 'Holds the amounts inside it, adds them each second, or approaches them with a time constant.' },
  ),
  density: optional(1, {
    title: 'Density',
    help: 'Inside it; a second when adding.',
    none: 'not touched',
    min: -1000,
    max: 1000,
    step: 0.05,
  }),
  heat: optional(150, {
    title: 'Heat',
    help: 'Kelvin above ambient; a second when adding. Below 0 is colder, and sinks.',
    unit: 'kelvinDifference',
    none: 'not touched',
    min: -273,
    max: 4000,
    step: 10,
  }),
  velocity: optionalVector(null, {
    title: 'Velocity',
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
});

export const solidSchema = z.strictObject({
  name: name.default('Solid').meta({ title: 'Name', help: 'Yours; changes no result.' }),
  hidden: flag(false, { title: 'Hidden', help: 'Left out of runs and of the viewport, but kept on the sheet.', hidden: true }),
  shape: shapeSchema,
});

const wall = (title: string): ReturnType<typeof choice<{ open: string; closed: string }>> =>
  choice(
    'open',
    { open: 'Open', closed: 'Closed' },
    { title, help: 'Open: matter leaves there. Closed: a solid wall, at the limit box itself.' },
  );

const boxSchema = z
  .strictObject({
    min: z
      .tuple([z.number(), z.number(), z.number()])
      .meta({ title: 'Lowest corner', help: 'Of the limit box.', unit: 'metre', step: 0.5 }),
    max: z
      .tuple([z.number(), z.number(), z.number()])
      .meta({ title: 'Highest corner', help: 'Of the limit box.', unit: 'metre', step: 0.5 }),
  })
  .refine((b) => b.min.every((v, n) => v < (b.max[n] ?? 0)), {
    error: 'the lowest corner must lie below the highest one on every axis',
  });

export const settingsSchema = z.strictObject({
  scale: z
    .strictObject({
      upAxis: choice(
        'y',
        { y: 'Y up', z: 'Z up' },
        { title: 'Up in files', help: 'Which axis points up in the files that other programs read. Computing does not change.' },
      ),
    })
    .prefault({}),
  detail: z
    .strictObject({
      voxelSize: number(0.1, {
        title: 'Voxel size',
        help: 'Half the size is 8 times the voxels, and about twice the substeps.',
        unit: 'metre',
        min: 1e-4,
        max: 100,
        step: 1.05,
        ratio: true,
      }),
    })
    .prefault({}),
  stepping: z
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
      maxSubsteps: integer(8, {
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
      iterations: integer(100, { title: 'Most iterations', help: 'Of one pressure solve. About 5 are usual.', min: 1, max: 1000, step: 1 }),
      firstFrameSolved: flag(false, {
        title: 'Solve the first frame',
        help: 'Off: the first frame holds only what the sources put there.',
      }),
    })
    .refine((s) => s.minSubsteps <= s.maxSubsteps, { path: ['minSubsteps'], error: 'the fewest substeps must not be more than the most' })
    .prefault({}),
  bounds: z
    .strictObject({
      mode: choice(
        'adaptive',
        { adaptive: 'Adaptive', fixed: 'Fixed', dense: 'Dense' },
        {
          title: 'Bounds',
          help: 'Adaptive follow the matter. Fixed hold the whole limit box in memory. Dense also compute all of it: for checks, and the slowest.',
        },
      ),
      reach: optional(null, {
        title: 'Reach',
        help: 'How far bounds keep ahead of matter. More is truer at the rim and costs voxels.',
        unit: 'metre',
        none: '0.5 m or 8 voxels',
        min: 0,
        max: 1000,
        step: 1.1,
        ratio: true,
      }),
      quietLevel: number(1e-3, {
        title: 'Quiet level',
        help: "Part of the sources' density (and heat) below which a tile sleeps. Higher is faster and loses thin haze.",
        min: 1e-6,
        max: 0.5,
        step: 1.5,
        ratio: true,
      }),
      quietSpeed: number(0.1, {
        title: 'Quiet speed',
        help: 'Fixed bounds only: difference from the wind below which a tile without matter sleeps.',
        unit: 'speed',
        min: 1e-4,
        max: 100,
        step: 1.2,
        ratio: true,
      }),
      cutOff: number(1e-4, {
        title: 'Cut-off',
        help: 'Density below this is removed, so that bounds do not grow around nothing. What it takes is booked.',
        min: 0,
        max: 1,
        step: 1.5,
        ratio: true,
      }),
      limit: boxSchema
        .nullable()
        .default(null)
        .meta({ title: 'Limit box', help: 'Outermost box of the computation; carries the six walls.', none: 'around sources and solids' }),
      walls: z
        .strictObject({
          left: wall('Left (-x)'),
          right: wall('Right (+x)'),
          floor: wall('Floor (-y)'),
          ceiling: wall('Ceiling (+y)'),
          back: wall('Back (-z)'),
          front: wall('Front (+z)'),
        })
        .prefault({})
        .meta({ title: 'Walls', help: 'Each side of the limit box.' }),
    })
    .prefault({}),
  sources: z.array(sourceSchema).max(32).default([]),
  solids: z.array(solidSchema).max(64).default([]),
  forces: z
    .strictObject({
      wind: vector([0, 0, 0], {
        title: 'Wind',
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
    })
    .prefault({}),
  matter: z
    .strictObject({
      ambient: number(293.15, { title: 'Ambient temperature', help: 'Of the air around.', unit: 'celsius', min: 1, max: 2000, step: 1 }),
      lift: number(0.02, {
        title: 'Rise by heat',
        help: 'Linear law: acceleration per kelvin above ambient. Ideal gas: a factor, 1 is physical.',
        unit: 'liftPerKelvin',
        min: -10,
        max: 10,
        step: 0.001,
      }),
      liftLaw: choice(
        'linear',
        { linear: 'Linear', ideal: 'Ideal gas' },
        { title: 'Law of rise', help: 'Ideal gas for large temperature differences: it levels off.' },
      ),
      sinking: number(0.5, {
        title: 'Sinking by density',
        help: 'Acceleration downwards per unit of density. Dust falls, thin smoke does not.',
        unit: 'acceleration',
        min: -100,
        max: 100,
        step: 0.1,
      }),
      decayTime: optional(null, {
        title: 'Decay time',
        help: 'Seconds after which 1/e of the density is left.',
        unit: 'second',
        none: 'no decay',
        min: 0.01,
        max: 1e5,
        step: 1.1,
        ratio: true,
      }),
      decayRate: number(0, {
        title: 'Decay rate',
        help: 'Density lost a second, everywhere the same.',
        unit: 'perSecond',
        min: 0,
        max: 1000,
        step: 0.01,
      }),
      coolingTime: optional(4, {
        title: 'Heat loss',
        help: 'Seconds after which 1/e of the heat is left.',
        unit: 'second',
        none: 'no heat loss',
        min: 0.01,
        max: 1e5,
        step: 1.1,
        ratio: true,
      }),
      velocityAdvection: choice(
        'maccormack',
        { linear: 'Linear', maccormack: 'MacCormack' },
        { title: 'Advection of velocity', help: 'MacCormack keeps curls; linear is softer and twice as fast.' },
      ),
      scalarAdvection: choice(
        'maccormack',
        { linear: 'Linear', maccormack: 'MacCormack' },
        { title: 'Advection of density', help: 'MacCormack keeps edges; linear is softer and faster.' },
      ),
    })
    .prefault({}),
  keep: z
    .strictObject({
      density: flag(true, { title: 'Density', help: 'Written to the cache. Always wanted for smoke.' }),
      temperature: flag(true, { title: 'Temperature', help: 'Written to the cache, in kelvin.' }),
      vel: flag(true, {
        title: 'Velocity',
        help: 'Written to the cache; three times the size of a scalar. Needed for motion blur and by later passes.',
      }),
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
      preRoll: flag(false, { title: 'Pre-roll frames', help: 'Written too. They are computed and counted either way.' }),
    })
    .refine((k) => k.density || k.temperature || k.vel, { path: ['density'], error: 'at least one channel must be kept' })
    .prefault({}),
});

export type Settings = z.output<typeof settingsSchema>;
export type SettingsInput = z.input<typeof settingsSchema>;
export type ShapeSettings = z.output<typeof shapeSchema>;
export type SourceSettings = z.output<typeof sourceSchema>;
export type SolidSettings = z.output<typeof solidSchema>;

/** The nine groups, each with the question that it answers. */
export const GROUPS = {
  scale: { title: 'Scale', question: 'How big is it?' },
  detail: { title: 'Detail', question: 'How fine?' },
  stepping: { title: 'Stepping', question: 'How often?' },
  bounds: { title: 'Bounds', question: 'How far?' },
  sources: { title: 'Sources', question: 'What comes in?' },
  solids: { title: 'Solids', question: 'What stands in the way?' },
  forces: { title: 'Forces', question: 'What pushes it?' },
  matter: { title: 'Matter', question: 'How does it behave?' },
  keep: { title: 'Keep', question: 'What is stored?' },
} as const satisfies Record<keyof Settings, { title: string; question: string }>;
export type Group = keyof typeof GROUPS;
