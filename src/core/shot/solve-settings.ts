import * as z from 'zod';
import { type forceFieldSchema, forcesSchema } from './forces';
import { solidSchema, sourceSchema, type shapeSchema } from './items';
import { matterSchema } from './matter';
import { followedBy } from './moves-schema';
import { choice, flag, number, optional } from './fields';
import { fileFields } from './parts';
import { limitBox, steppingSchema, wallsSchema } from './flow-parts';

/** Bounds of their own for what lies far from the rest. */
export const besideSchema = z.strictObject({
  name: z.string().trim().min(1).max(60).default('Bounds').meta({ title: 'Name', help: 'Yours; changes no result.' }),
  limit: limitBox.meta({ title: 'Limit box', help: 'Outermost box of these bounds; its walls are those of the shot.' }),
  voxelSize: optional(null, {
    title: 'Own voxel size',
    help: 'Finer for what is near, coarser for what is far.',
    unit: 'metre',
    none: 'as under Detail',
    min: 1e-4,
    max: 100,
    step: 1.05,
    ratio: true,
  }),
});

/** What all passes of a shot have in common: which way is up, and what stands in the way. */
export const sceneSchema = z.strictObject({
  scale: z
    .strictObject({
      upAxis: choice(
        'y',
        { y: 'Y up', z: 'Z up' },
        { title: 'Up in files', help: 'Which axis points up in the files that other programs read. Computing does not change.' },
      ),
    })
    .prefault({}),
  solids: z.array(solidSchema).max(64).default([]),
});

/** Of a gas solve, an entry of the shot's passes. */
export const gasSettingsSchema = z.strictObject({
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
  stepping: steppingSchema(8).prefault({}),
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
        help: 'Density below this is removed, so that bounds do not grow around nothing. What it takes is recorded.',
        min: 0,
        max: 1,
        step: 1.5,
        ratio: true,
      }),
      limit: limitBox.nullable().default(null).meta({
        title: 'Limit box',
        help: 'Outermost box of the computation; carries the six walls.',
        none: 'around sources and solids',
      }),
      walls: wallsSchema('open').prefault({}).meta({ title: 'Walls', help: 'Each side of the limit box.' }),
      beside: z.array(besideSchema).max(7).default([]).meta({
        title: 'Bounds beside',
        help: 'More bounds in the same shot, each computed by itself: nothing passes between them.',
        hidden: true,
      }),
    })
    .prefault({}),
  sources: z.array(sourceSchema).max(32).default([]),
  forces: forcesSchema.prefault({}),
  matter: matterSchema.prefault({}),
  keep: z
    .strictObject({
      density: flag(true, { title: 'Density', help: 'Written to the cache. Always wanted for smoke.' }),
      temperature: flag(true, { title: 'Temperature', help: 'Written to the cache, in kelvin.' }),
      flame: flag(true, { title: 'Flame', help: 'Written where something burns: fuel burnt a second.' }),
      fuel: flag(false, { title: 'Fuel', help: 'Written where something burns: what has not burnt yet.' }),
      colour: flag(true, { title: 'Colour', help: 'Written where Matter carries it; three times the size of a scalar.' }),
      uvw: flag(true, { title: 'Texture coordinates', help: 'Written where Matter carries them; three times the size of a scalar.' }),
      vel: flag(true, {
        title: 'Velocity',
        help: 'Written to the cache; three times the size of a scalar. Needed for motion blur and by later passes.',
      }),
      ...fileFields(),
      preRoll: flag(false, { title: 'Pre-roll frames', help: 'Written too. They are computed and counted either way.' }),
    })
    .refine((k) => k.density || k.temperature || k.vel, { path: ['density'], error: 'at least one channel must be kept' })
    .prefault({}),
});

/** A solve as it is worked on, with the scene that it stands in: the sheet of nine groups. Its paths are those of edits, moves, remedies and differences. */
export const solveSchema = z.strictObject({ ...sceneSchema.shape, ...gasSettingsSchema.shape }).superRefine((solve, context) => {
  for (const { path, message } of followedBy(solve).mistakes) context.addIssue({ code: 'custom', path: [...path], message });
});

export type SceneSettings = z.output<typeof sceneSchema>;
export type GasSettings = z.output<typeof gasSettingsSchema>;
/** Of a gas solve. */
export type GasSolve = z.output<typeof solveSchema>;
export type BesideSettings = z.output<typeof besideSchema>;
export type SolveInput = z.input<typeof solveSchema>;
export type ShapeSettings = z.output<typeof shapeSchema>;
/** Of gas. */
export type GasSourceSettings = z.output<typeof sourceSchema>;
export type SolidSettings = z.output<typeof solidSchema>;
export type ForceFieldSettings = z.output<typeof forceFieldSchema>;

/** The nine groups of the solve, each with the question that it answers. */
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
} as const satisfies Record<keyof GasSolve, { title: string; question: string }>;
export type Group = keyof typeof GROUPS;
