import * as z from 'zod';
import { choice } from './fields';
import { particlesSettingsSchema, refillSettingsSchema, stillsSettingsSchema } from './point-passes';
import { fedSettingsSchema, heldSettingsSchema } from './solve-passes';
import { liquidSettingsSchema } from './liquid-settings';
import { isSolveKind } from './solve';
import { surfaceSettingsSchema } from './surface-settings';
import { gasSettingsSchema } from './solve-settings';
import { detailSettingsSchema, resampleSettingsSchema, retimeSettingsSchema } from './volume-passes';

// The passes of a shot. Their settings are checked here, with everything else of a shot: one schema for files, drafts and edits.

/** What a pass reads: the cache of the solve or of a pass before it, at its own rung or another; or one certain run, whatever the sheet says. */
const passInputSchema = z.strictObject({
  pass: z
    .string()
    .min(1)
    .max(40)
    .default('solve')
    .meta({ title: 'Reads', help: 'The cache that it works on: of the solve, or of a pass before it.' }),
  rung: choice(
    'same',
    { same: 'Same as its own', test: 'Test', final: 'Final' },
    { title: 'At', help: 'A Final can stand on an approved Test. Same: a Test reads a Test, a Final reads a Final.' },
  ),
  run: z
    .string()
    .max(40)
    .nullable()
    .default(null)
    .meta({ title: 'Pinned run', help: 'It reads this run and does not follow the sheet.', none: 'follows the sheet' }),
  folder: z.string().trim().min(1).max(1000).nullable().default(null).meta({
    title: 'Folder',
    help: 'It reads numbered .vdb or .ply files of a folder on this machine instead of a pass.',
    none: 'none',
  }),
});
export type PassInput = z.output<typeof passInputSchema>;

const own = {
  id: z
    .string()
    .min(1)
    .max(40)
    .regex(/^[a-z0-9-]+$/, 'small letters, digits and hyphens')
    .meta({
      title: 'Id',
      help: 'By which other passes and the command line speak of it: small letters, digits and hyphens.',
      hidden: true,
    }),
  name: z.string().trim().min(1).max(60).meta({ title: 'Name', help: 'Yours; changes no result.' }),
};

const head = {
  ...own,
  enabled: z.boolean().default(true).meta({ title: 'On', help: 'Off: it is not started, and nothing is predicted of it.' }),
  input: passInputSchema.prefault({}),
};

/** The solve's id, of gas or of liquid: it is always there, always the first, and the only one. */
export const SOLVE = 'solve';

const gasPassSchema = z.strictObject({ ...own, kind: z.literal('gas'), settings: gasSettingsSchema.prefault({}) });
const liquidPassSchema = z.strictObject({ ...own, kind: z.literal('liquid'), settings: liquidSettingsSchema.prefault({}) });

/** A pass that reads the cache of one before it. */
export const passSchema = z.discriminatedUnion('kind', [
  z.strictObject({ ...head, kind: z.literal('resample'), settings: resampleSettingsSchema.prefault({}) }),
  z.strictObject({ ...head, kind: z.literal('detail'), settings: detailSettingsSchema.prefault({}) }),
  z.strictObject({ ...head, kind: z.literal('held'), settings: heldSettingsSchema.prefault({}) }),
  z.strictObject({ ...head, kind: z.literal('fed'), settings: fedSettingsSchema.prefault({}) }),
  z.strictObject({ ...head, kind: z.literal('retime'), settings: retimeSettingsSchema.prefault({}) }),
  z.strictObject({ ...head, kind: z.literal('particles'), settings: particlesSettingsSchema.prefault({}) }),
  z.strictObject({
    ...head,
    kind: z.literal('refill'),
    velocity: passInputSchema.prefault({}),
    settings: refillSettingsSchema.prefault({}),
  }),
  z.strictObject({
    ...head,
    kind: z.literal('surface'),
    more: passInputSchema.nullable().default(null),
    settings: surfaceSettingsSchema.prefault({}),
  }),
  z.strictObject({ ...head, kind: z.literal('stills'), settings: stillsSettingsSchema.prefault({}) }),
]);
export type PassSettings = z.output<typeof passSchema>;
export type SolvePass = z.output<typeof gasPassSchema> | z.output<typeof liquidPassSchema>;
/** Kinds of passes that read others; and all kinds. */
export type FollowerKind = PassSettings['kind'];
export type PassKind = FollowerKind | SolvePass['kind'];

/** What a pass can read, by role: `cache` is what its frames are made from. */
export type InputRole = 'cache' | 'velocity' | 'more';

export interface RoledInput {
  readonly role: InputRole;
  readonly input: PassInput;
}

/** All that a pass reads; what its frames are made from comes first. */
export const inputsOf = (pass: PassSettings): readonly RoledInput[] => {
  const first: RoledInput = { role: 'cache', input: pass.input };
  if ('velocity' in pass) return [first, { role: 'velocity', input: pass.velocity }];
  return 'more' in pass && pass.more !== null ? [first, { role: 'more', input: pass.more }] : [first];
};

/** A pass with another input of a role. */
export const withInput = (pass: PassSettings, role: InputRole, change: Partial<PassInput>): PassSettings => {
  if (role === 'velocity') return 'velocity' in pass ? { ...pass, velocity: { ...pass.velocity, ...change } } : pass;
  if (role === 'more') return 'more' in pass ? { ...pass, more: { ...(pass.more ?? pass.input), ...change } } : pass;
  return { ...pass, input: { ...pass.input, ...change } };
};

const isFollower = (p: SolvePass | PassSettings): p is PassSettings => !isSolveKind(p.kind);

/** A pass reads what stands before it in the list; ids are of one pass each. */
export const passesSchema = z
  .array(z.discriminatedUnion('kind', [gasPassSchema, liquidPassSchema, ...passSchema.options]))
  .max(17)
  .superRefine((passes, context) => {
    const solves = passes.filter((p) => isSolveKind(p.kind)).length;
    if (solves !== 1 || !passes[0] || !isSolveKind(passes[0].kind) || passes[0].id !== SOLVE)
      context.addIssue({
        code: 'custom',
        path: [],
        message: `the first pass must be the solve, of gas or of liquid, of id "${SOLVE}", and the only one`,
      });
    const before = new Set<string>();
    passes.forEach((p, n) => {
      if (before.has(p.id)) context.addIssue({ code: 'custom', path: [n, 'id'], message: `two passes have the id "${p.id}"` });
      for (const { role, input } of isFollower(p) ? inputsOf(p) : [])
        if (!before.has(input.pass)) {
          const path = [n, role === 'cache' ? 'input' : role, 'pass'];
          context.addIssue({ code: 'custom', path, message: `"${input.pass}" is no pass before this one` });
        }
      before.add(p.id);
    });
  })
  .prefault([{ id: SOLVE, kind: 'gas', name: 'Solve' }]);
