import * as z from 'zod';
import { choice, flag, number, optional } from './fields';
import { checkMoves, movesSchema } from './moves-schema';

/** Schemes by the names they were published under. */
const ADVECTION_NAMES = { linear: 'Linear', maccormack: 'MacCormack', bfecc: 'BFECC', cubic: 'Monotone cubic' } as const;
export const VELOCITY_ADVECTION = { ...ADVECTION_NAMES, reflection: 'Advection-reflection' } as const;
export const SCALAR_ADVECTION = { ppm: 'Conservative (PPM)', ...ADVECTION_NAMES } as const;

const fireSchema = z.strictObject({
  ignition: number(523.15, {
    title: 'Ignition',
    help: 'Fuel burns where the gas is at least this hot: a hot source, or flames beside it, set it off.',
    unit: 'celsius',
    min: 1,
    max: 5000,
    step: 10,
  }),
  burnTime: number(0.4, {
    title: 'Burn time',
    help: 'Seconds after which 1/e of burning fuel is left. Short: small, fierce flames. Long: they roll on.',
    unit: 'second',
    min: 0.005,
    max: 100,
    step: 1.1,
    ratio: true,
  }),
  heat: number(1200, {
    title: 'Heat of burning',
    help: 'Kelvin that a unit of fuel gives to its voxel; what makes flames rise.',
    unit: 'kelvinDifference',
    min: 0,
    max: 20000,
    step: 50,
  }),
  soot: number(0.5, { title: 'Soot', help: 'Density that a unit of fuel leaves behind.', min: 0, max: 100, step: 0.05 }),
  expansion: number(1, {
    title: 'Expansion',
    help: 'Volumes that a unit of burnt fuel adds. It makes a burst roll outwards; in a sealed pocket it has nowhere to go.',
    min: 0,
    max: 50,
    step: 0.1,
  }),
  loss: number(1500, {
    title: 'Flame cooling',
    help: 'Kelvin a second that a flame 1000 K above ambient loses; with the fourth power, so that hot flames shorten and warm smoke stays warm.',
    unit: 'coolingRate',
    min: 0,
    max: 1e6,
    step: 1.1,
    ratio: true,
  }),
});

export const matterSchema = z
  .strictObject({
    ambient: number(293.15, { title: 'Ambient temperature', help: 'Of the air around.', unit: 'celsius', min: 1, max: 2000, step: 1 }),
    lift: number(0.02, {
      title: 'Rise by heat',
      moves: true,
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
      moves: true,
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
    heatSpread: number(0, {
      title: 'Heat spread',
      help: 'How fast heat evens out, in square metres a second: softens the lift. Air itself: 0.00002.',
      unit: 'diffusivity',
      min: 0,
      max: 10,
      step: 0.005,
    }),
    smoothing: number(0, {
      title: 'Velocity smoothing',
      help: 'Evens out the motion like a viscosity, in square metres a second: larger, calmer rolls. Costs a pass or two, and energy (shown below).',
      unit: 'diffusivity',
      min: 0,
      max: 10,
      step: 0.005,
    }),
    sharpening: number(0, {
      title: 'Density sharpening',
      help: 'Drives density up its own slopes, a second: edges that transport has smeared stay crisp. Makes and takes none of it; above about 10 it steps.',
      unit: 'perSecond',
      min: 0,
      max: 100,
      step: 0.5,
    }),
    fire: fireSchema.nullable().default(null).meta({
      title: 'Fire',
      help: 'Fuel that sources emit burns where it is hot: it gives heat and soot, and takes room.',
      none: 'nothing burns',
    }),
    colour: flag(false, {
      title: 'Carry colour',
      help: 'The colours of the sources go where their density goes, and mix. Three more scalars to carry; soot that fire makes is black.',
    }),
    coordinates: flag(false, {
      title: 'Carry texture coordinates',
      help: 'Each voxel knows where in its source its matter came from, 0 to 1 across the box of the source. Three more scalars to carry.',
    }),
    velocityAdvection: choice('maccormack', VELOCITY_ADVECTION, {
      title: 'Advection of velocity',
      help: 'What carries the motion on. Linear smears most and is the fastest; MacCormack keeps curls at 2.4 times its time; monotone cubic keeps more at 3 times; BFECC most of these, at 3.5 times. Advection-reflection solves the pressure twice and keeps the energy that the projection takes.',
    }),
    scalarAdvection: choice('ppm', SCALAR_ADVECTION, {
      title: 'Advection of density',
      help: 'The same for density, heat and fuel: how long edges and thin wisps last. Conservative: what leaves a voxel arrives in the next, so that no matter and no heat is made or lost; piecewise parabolic, and sharper than the others.',
    }),
    keepsMass: flag(false, {
      title: 'Conserve mass',
      help: 'For schemes that do not conserve: scales all density after each transport so that its sum is kept. Where much is corrected, thin parts far away brighten or dim with the rest.',
    }),
    moves: movesSchema,
  })
  .superRefine(checkMoves(() => matterSchema));
