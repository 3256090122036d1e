import * as z from 'zod';

// What a stored plan must have for anything to be read from it. Ranges are not looked at: it was valid when it was stored. Keys that are not named here
// stay as they are.
const number = z.number();
const triple = z.tuple([number, number, number]);
const maybe = number.nullable();
const box = z.looseObject({ min: triple, max: triple });
const moves = z.record(z.string(), z.looseObject({ kind: z.enum(['keys', 'expression']) }));
const shape = z.discriminatedUnion('kind', [
  z.looseObject({ kind: z.literal('box'), centre: triple, size: triple, rotation: triple }),
  z.looseObject({ kind: z.literal('ball'), centre: triple, radius: number }),
  z.looseObject({ kind: z.literal('cylinder'), centre: triple, radius: number, height: number, rotation: triple }),
  z.looseObject({ kind: z.literal('mesh'), geometry: z.string(), extent: box, centre: triple, rotation: triple, scale: number }),
]);
const side = z.enum(['open', 'closed']);

const optionsSchema = z.looseObject({
  voxelSize: number.positive(),
  framesPerSecond: number.positive(),
  timeScale: number.positive(),
  firstFrame: number,
  lastFrame: number,
  preRoll: number,
  firstFrameSolved: z.boolean(),
  stepping: z.looseObject({ cfl: number, minimum: number, maximum: number, tolerance: number, iterations: number }),
  bounds: z.looseObject({
    mode: z.enum(['fixed', 'adaptive', 'dense']),
    limit: box,
    walls: z.looseObject({ left: side, right: side, floor: side, ceiling: side, back: side, front: side }),
    reach: number,
    quietDensity: number,
    quietHeat: number,
    quietSpeed: number,
    cutOff: number,
  }),
  sources: z.array(
    z.looseObject({
      name: z.string(),
      shape,
      mode: z.enum(['set', 'add', 'blend']),
      density: maybe,
      heat: maybe,
      fuel: maybe,
      velocity: triple.nullable(),
      noise: z.looseObject({ octaves: number }).nullable(),
      moves,
    }),
  ),
  solids: z.array(z.looseObject({ shape, body: z.enum(['filled', 'hollow', 'thin']), thickness: number, voxelSize: maybe, moves })),
  followed: z.record(z.string(), z.looseObject({ value: number })),
  forces: z.looseObject({
    wind: triple,
    windTime: maybe,
    turbulence: z.looseObject({ strength: number }).nullable(),
    fields: z.array(z.looseObject({ kind: z.string(), shape: shape.nullable(), moves })),
    confinement: number,
    moves,
  }),
  matter: z.looseObject({
    ambient: number,
    sinking: number,
    lift: number,
    fire: z.looseObject({ soot: number }).nullable(),
    colour: z.boolean(),
    coordinates: z.boolean(),
    velocityAdvection: z.string(),
    scalarAdvection: z.string(),
    moves,
  }),
});

const gasPlanSchema = z.looseObject({
  pass: z.literal('solve'),
  rung: z.enum(['sketch', 'test', 'final']),
  options: optionsSchema,
  beside: z.array(optionsSchema),
  keep: z.looseObject({
    channels: z.array(z.string()),
    precision: z.enum(['half', 'full']),
    compression: z.enum(['blosc', 'zip', 'none']),
    preRoll: z.boolean(),
  }),
  file: z.looseObject({ metresPerUnit: number, upAxis: z.enum(['y', 'z']), timeScale: number }),
});

const { sources: _gasSources, matter: _gasMatter, bounds: gasBounds, ...flow } = optionsSchema.shape;
const { quietDensity: _d, quietHeat: _h, quietSpeed: _s, cutOff: _c, ...flowBounds } = gasBounds.shape;

const liquidPlanSchema = z.looseObject({
  pass: z.literal('liquid'),
  rung: gasPlanSchema.shape.rung,
  options: z.looseObject({
    ...flow,
    bounds: z.looseObject(flowBounds),
    sources: z.array(
      z.looseObject({ name: z.string(), shape, act: z.enum(['fills', 'emits', 'keeps', 'drains']), velocity: triple, moves }),
    ),
    particles: z.looseObject({ along: number, band: number.nullable(), inside: number, jitter: number, seed: number }),
    matter: z.looseObject({ density: number, viscosity: number, tension: number, transfer: z.enum(['flip', 'apic']), moves }),
  }),
  beside: z.array(z.never()),
  keep: z.looseObject({ attributes: z.array(z.string()), volumes: z.array(z.enum(['distance', 'vel'])), preRoll: z.boolean() }),
  file: gasPlanSchema.shape.file,
});

export const planSchema = z.discriminatedUnion('pass', [gasPlanSchema, liquidPlanSchema]);
