import { GRAVITY } from '#core/units';
import * as z from 'zod';
import { choice, flag, integer, number, optional, optionalInteger, vector } from './fields';
import { limitBox, steppingSchema, wallsSchema } from './flow-parts';
import { forceFieldSchema } from './forces';
import { itemName, noiseSchema, shapeSchema, turnsAbout } from './items';
import { checkMoves, followedBy, movesSchema } from './moves-schema';
import { besideSchema, sceneSchema } from './solve-settings';

/** What brings liquid in, or takes it away. */
export const liquidSourceSchema = z
  .strictObject({
    name: itemName.default('Source').meta({ title: 'Name', help: 'Yours; changes no result.' }),
    hidden: flag(false, { title: 'Hidden', help: 'Left out of runs and of the viewport, but kept on the sheet.', hidden: true }),
    act: choice(
      'fills',
      { fills: 'Fills once', emits: 'Emits', keeps: 'Keeps full', drains: 'Drains' },
      {
        title: 'Does',
        help: 'Fills once: its shape, at its first frame. Emits: the rate on the sheet. Keeps full: refills its shape as liquid leaves it. Drains: removes the liquid that enters it. Where bodies overlap there is liquid once.',
      },
    ),
    shape: shapeSchema,
    shell: optional(null, {
      title: 'Surface only',
      help: 'Gives liquid in a skin this thick on its surface instead of in its whole volume: for open sheets.',
      unit: 'metre',
      none: 'whole volume',
      min: 1e-3,
      max: 1000,
      step: 1.1,
      ratio: true,
    }),
    velocity: vector([0, 0, 0], {
      title: 'Velocity',
      moves: true,
      help: 'Of the new liquid. Without a rate, a source that emits gives as much as its velocity carries through its opening; without a velocity its rate goes out on all sides.',
      unit: 'speed',
      min: -200,
      max: 200,
      step: 0.1,
    }),
    volumeRate: optional(null, {
      title: 'Rate',
      moves: true,
      help: 'Of a source that emits: cubic metres a second (or l/s), given to one particle, under water too. Its direction is that of the velocity, and its speed follows unless the opening does.',
      unit: 'volumeRate',
      none: 'by its velocity',
      min: 0,
      max: 1e5,
      step: 1.1,
      ratio: true,
    }),
    opening: choice(
      'shape',
      { shape: 'As its shape', fits: 'As rate and velocity need' },
      {
        title: 'Opening',
        help: 'Of a source with a rate and a velocity. As its shape: the speed follows from the rate. As both need: the shape grows or shrinks about its middle until the rate comes at that velocity.',
      },
    ),
    noise: noiseSchema.nullable().default(null).meta({
      title: 'Noise on speed',
      help: 'Varies the speed of what comes in, in space and time: a stream that is not glass.',
      none: 'steady',
    }),
    viscosity: optional(null, {
      title: 'Own viscosity',
      help: 'Of its liquid alone. Liquids of unlike viscosity mix: where they do, cells have the mean.',
      unit: 'diffusivity',
      none: 'as Matter',
      min: 0,
      max: 100,
      step: 1.2,
      ratio: true,
    }),
    from: optionalInteger(null, {
      title: 'From frame',
      help: 'First frame in which it acts; a fill acts there and never again.',
      none: 'the start',
      min: -1e5,
      max: 1e5,
      step: 1,
    }),
    to: optionalInteger(null, { title: 'To frame', help: 'Last frame in which it acts.', none: 'the end', min: -1e5, max: 1e5, step: 1 }),
    inherits: number(1, {
      title: 'Own motion passed on',
      help: 'Part of the velocity of a moving source that its liquid takes along.',
      min: -5,
      max: 5,
      step: 0.1,
    }),
    turnsAbout: turnsAbout(),
    moves: movesSchema,
  })
  .superRefine(checkMoves(() => liquidSourceSchema));

const forcesSchema = z
  .strictObject({
    gravity: vector([0, -GRAVITY, 0], {
      title: 'Gravity',
      help: 'Acceleration of everything. It decides how large the motion reads: leave it at the real one, and the sizes real too.',
      unit: 'acceleration',
      min: -1000,
      max: 1000,
      step: 0.1,
    }),
    wind: vector([0, 0, 0], {
      title: 'Air',
      moves: true,
      help: 'What drag pulls drops and spray towards.',
      unit: 'speed',
      min: -200,
      max: 200,
      step: 0.1,
    }),
    airDrag: number(0, {
      title: 'Drag',
      help: 'How fast the air slows particles, a second. 0.5 calms spray; above 2 it reads as small.',
      unit: 'perSecond',
      min: 0,
      max: 100,
      step: 0.1,
    }),
    fields: z.array(forceFieldSchema).max(16).default([]).meta({
      title: 'More forces',
      help: 'Turbulence, draughts, guides, drag and attraction, each in a region of its own or everywhere.',
      hidden: true,
    }),
    moves: movesSchema,
  })
  .superRefine(checkMoves(() => forcesSchema));

const matterSchema = z
  .strictObject({
    density: number(1000, {
      title: 'Density',
      help: 'Of the liquid. It decides about energies and forces, not about how it moves. Water 1000, clay slip 1600.',
      unit: 'densityOfMass',
      min: 1,
      max: 30000,
      step: 10,
    }),
    viscosity: number(1e-6, {
      title: 'Viscosity',
      help: 'Kinematic. Water 0.000001, oil 0.0001, clay slip 0.003, honey 0.007. Below 0.0001 it is not felt on voxels of centimetres; the thicker, the more iterations.',
      unit: 'diffusivity',
      min: 0,
      max: 100,
      step: 1.2,
      ratio: true,
    }),
    tension: number(0, {
      title: 'Surface tension',
      help: 'Rounds drops and holds films together. Water 0.073, slip 0.06. It is felt on voxels of millimetres, and needs substeps that are the shorter the smaller the voxel; 0 saves its time.',
      unit: 'tension',
      min: 0,
      max: 100,
      step: 0.01,
    }),
    transfer: choice(
      'apic',
      { apic: 'APIC (affine)', flip: 'FLIP with PIC' },
      {
        title: 'Transfer',
        help: 'APIC keeps turns and is calm; FLIP is livelier, noisier, and a quarter faster.',
      },
    ),
    blendRate: number(1, {
      title: 'Blend towards PIC',
      help: "Of FLIP: how fast particles take up the grid's velocity, a second. 0 is all FLIP and noisy; above 10 it is syrup. The same whatever the substeps.",
      unit: 'perSecond',
      min: 0,
      max: 1000,
      step: 0.5,
    }),
    bounce: number(0, {
      title: 'Bounce',
      help: 'Part of the speed into a solid with which particles come back.',
      min: 0,
      max: 1,
      step: 0.05,
    }),
    friction: number(0, { title: 'Friction', help: 'Along solids (Coulomb): 0 slides, 1 holds.', min: 0, max: 2, step: 0.05 }),
    volumeTime: number(0.05, {
      title: 'Volume back in',
      help: 'Seconds in which liquid that was crowded together spreads again. Shorter keeps the volume better; below a substep it jitters.',
      unit: 'second',
      min: 0.002,
      max: 100,
      step: 1.2,
      ratio: true,
    }),
    moves: movesSchema,
  })
  .superRefine(checkMoves(() => matterSchema));

/** Of a liquid solve, an entry of the shot's passes. */
export const liquidSettingsSchema = z.strictObject({
  detail: z
    .strictObject({
      voxelSize: number(0.05, {
        title: 'Voxel size',
        help: 'Half the size is 8 times the particles, and about twice the substeps. A splash needs 5 voxels across its thin parts.',
        unit: 'metre',
        min: 1e-4,
        max: 100,
        step: 1.05,
        ratio: true,
      }),
      particles: integer(2, {
        title: 'Particles along a voxel',
        help: '2 are 8 in a voxel: the usual. 1 leaves holes; 3 and 4 make smoother surfaces at 3 and 8 times the cost of a particle.',
        min: 1,
        max: 4,
        step: 1,
      }),
      band: optionalInteger(null, {
        title: 'Fine layer',
        help: 'Voxels under the surface down to which there are so many particles; two at walls. Deeper there are fewer: a pool that is 16 voxels deep takes a third of the particles. 4 is enough where nothing dives; a splash wants 8.',
        none: 'all of it',
        unit: 'voxel',
        min: 3,
        max: 64,
        step: 1,
      }),
      inside: integer(1, {
        title: 'Inside, along a voxel',
        help: 'Below the fine layer: 1 is one particle in a voxel, 2 are 8.',
        min: 1,
        max: 3,
        step: 1,
      }),
      jitter: number(0.5, {
        title: 'Jitter',
        help: 'How far particles begin from the middle of their share of a voxel: 0 in rows, 1 anywhere in it.',
        min: 0,
        max: 1,
        step: 0.05,
      }),
      seed: integer(1, { title: 'Seed', help: 'Another number, other places.', min: 0, max: 1e6, step: 1 }),
    })
    .prefault({}),
  stepping: steppingSchema(16).prefault({}),
  bounds: z
    .strictObject({
      mode: choice(
        'adaptive',
        { adaptive: 'Adaptive', fixed: 'Fixed', dense: 'Dense' },
        {
          title: 'Bounds',
          help: 'Adaptive follow the liquid. Fixed hold the whole limit box in memory. Dense also compute all of it: for checks, and the slowest.',
        },
      ),
      limit: limitBox.nullable().default(null).meta({
        title: 'Limit box',
        help: 'Outermost box of the computation; carries the six walls. Closed ones are the container; what leaves through an open one is gone, and counted.',
        none: 'around sources and solids',
      }),
      walls: wallsSchema('closed', 'open').prefault({}).meta({ title: 'Walls', help: 'Each side of the limit box.' }),
      beside: z.array(besideSchema).max(0).default([]).meta({
        title: 'Bounds beside',
        help: 'A liquid has one bounds.',
        hidden: true,
      }),
    })
    .prefault({}),
  sources: z.array(liquidSourceSchema).max(32).default([]),
  forces: forcesSchema.prefault({}),
  matter: matterSchema.prefault({}),
  keep: z
    .strictObject({
      radius: flag(true, { title: 'Radius', help: 'Written with each particle: that of the ball of its volume. Surfacing reads it.' }),
      viscosity: flag(false, { title: 'Viscosity', help: 'Written with each particle.' }),
      source: flag(false, { title: 'Source', help: 'Written with each particle: the number of the source that it came from.' }),
      distance: flag(false, {
        title: 'Distance (.vdb)',
        help: 'A volume beside the particles: the signed distance to the surface, a level set within a voxel and a half of it.',
      }),
      velocity: flag(false, {
        title: 'Velocity (.vdb)',
        help: 'A volume beside the particles: for motion blur of a skin, and for what the liquid carries.',
      }),
      preRoll: flag(false, { title: 'Pre-roll frames', help: 'Written too. They are computed and counted either way.' }),
    })
    .prefault({}),
});

/** A liquid solve as it is worked on, with the scene that it stands in. */
export const liquidSolveSchema = z.strictObject({ ...sceneSchema.shape, ...liquidSettingsSchema.shape }).superRefine((solve, context) => {
  for (const { path, message } of followedBy(solve).mistakes) context.addIssue({ code: 'custom', path: [...path], message });
});

export type LiquidSettings = z.output<typeof liquidSettingsSchema>;
export type LiquidSolve = z.output<typeof liquidSolveSchema>;
export type LiquidSourceSettings = z.output<typeof liquidSourceSchema>;
