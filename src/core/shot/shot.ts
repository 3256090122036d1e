import * as z from 'zod';
import { type Issue, RuddleError } from '#core/errors';
import { integer, number } from './fields';
import { nesting } from './nesting';
import { settingsSchema } from './settings';
import { SHOT_VERSION, placeInFile, upgradedFile } from './upgrades';

const place = (title: string, help: string): z.ZodType<readonly [number, number, number]> =>
  z.tuple([z.number(), z.number(), z.number()]).meta({ title, help, unit: 'metre' });

/** Where a picture is taken from; changes no result. */
export const cameraSchema = z.strictObject({
  name: z.string().trim().min(1).max(60).meta({ title: 'Name', help: 'Of the camera.' }),
  position: place('Position', 'Where it stands.'),
  target: place('Looks at', 'What is in the middle of the picture.'),
  fieldOfView: number(32, { title: 'Field of view', help: 'Upright angle of the picture.', unit: 'degree', min: 5, max: 120 }),
  aspect: number(16 / 9, { title: 'Aspect', help: 'Width of the picture over its height.', min: 0.2, max: 5 }),
});
export type CameraSettings = z.output<typeof cameraSchema>;

export const shotFieldsSchema = z
  .strictObject({
    name: z.string().trim().min(1).max(80).meta({ title: 'Name', help: 'Of the shot.' }),
    framesPerSecond: number(24, { title: 'Frame rate', help: 'Frames a second.', unit: 'rate', min: 1, max: 240 }),
    firstFrame: integer(1, { title: 'First frame', help: 'Time 0 of the shot.', min: -1e5, max: 1e5 }),
    lastFrame: integer(96, { title: 'Last frame', help: 'Changes no frame before it.', min: -1e5, max: 1e5 }),
    preRoll: integer(0, { title: 'Pre-roll', help: 'Frames computed before the first one.', unit: 'frame', min: 0, max: 1e4 }),
    metresPerUnit: number(1, {
      title: 'Metres per unit',
      help: 'Size of one scene unit of the programs that read the files.',
      unit: 'metre',
      min: 1e-4,
      max: 1e4,
    }),
    timeScale: number(1, {
      title: 'Time scale',
      help: 'Seconds that pass in the computation in a second of the shot. 1 / √N makes it read N times bigger, at the same settings and cost.',
      min: 0.01,
      max: 100,
    }),
    budgets: z
      .strictObject({
        time: number(7200, { title: 'Time budget', help: 'Computing time that the shot may use.', unit: 'hour', min: 1, max: 1e8 }),
        disk: number(8e9, { title: 'Disk budget', help: 'What its caches may take.', unit: 'gigabyte', min: 1e6, max: 1e15 }),
        memory: number(4e9, { title: 'Memory budget', help: 'Of one run.', unit: 'gigabyte', min: 1e7, max: 1e13 }),
      })
      .prefault({}),
    cameras: z.array(cameraSchema).max(24).default([]).meta({ title: 'Cameras', help: 'Saved views, each with an aspect.' }),
  })
  .refine((s) => s.lastFrame >= s.firstFrame, { path: ['lastFrame'], error: 'the last frame must not come before the first' });

export const variantFileSchema = z.strictObject({
  name: z.string().trim().min(1).max(80).meta({ title: 'Name', help: 'Of the variant; unique in its shot.' }),
  parent: z.string().nullable().default(null).meta({ title: 'Parent', help: 'Name of the variant it was made from.' }),
  settings: settingsSchema,
});

export const shotFileSchema = z
  .strictObject({
    ruddle: z
      .literal(SHOT_VERSION, {
        error: ({ input }) =>
          typeof input === 'number' && input > SHOT_VERSION
            ? `it is from a newer Ruddle; this one reads files up to version ${String(SHOT_VERSION)}`
            : `the version of a shot file, a number up to ${String(SHOT_VERSION)}`,
      })
      .meta({ title: 'Schema version', help: 'Of this file. Files of older versions are read too.' }),
    ...shotFieldsSchema.shape,
    variants: z.array(variantFileSchema).min(1).max(1000).meta({ title: 'Variants', help: 'Complete sets of settings.' }),
  })
  .refine((s) => s.lastFrame >= s.firstFrame, { path: ['lastFrame'], error: 'the last frame must not come before the first' })
  .refine((s) => new Set(s.variants.map((v) => v.name)).size === s.variants.length, {
    path: ['variants'],
    error: 'two variants have the same name',
  })
  .superRefine((s, context) => {
    const parents = new Map(s.variants.map((v) => [v.name, v.parent]));
    s.variants.forEach(({ name, parent }, n) => {
      const path = ['variants', n, 'parent'];
      if (parent !== null && !parents.has(parent)) {
        context.addIssue({ code: 'custom', path, message: `there is no variant "${parent}" in this file` });
        return;
      }
      // A variant that comes from itself, by however many others.
      let at: string | null = parent;
      for (let step = 0; at !== null; step++) {
        if (at === name || step > s.variants.length) {
          context.addIssue({ code: 'custom', path, message: 'its parents go round in a circle' });
          return;
        }
        at = parents.get(at) ?? null;
      }
    });
  });

export type ShotFields = z.output<typeof shotFieldsSchema>;
export type ShotFile = z.output<typeof shotFileSchema>;
export type VariantFile = z.output<typeof variantFileSchema>;

/** Validates; throws `settings-invalid` naming every place, what was found there and what is allowed. */
export function parseWith<T extends z.ZodType>(
  schema: T,
  input: unknown,
  what: string,
  /** A place as whoever wrote the input has it. */
  placeIn: (path: string) => string = (path) => path,
): z.output<T> {
  const result = schema.safeParse(input, { reportInput: true });
  if (result.success) return result.data;
  const issues = flatten(result.error.issues, [], input).map((i) => ({ ...i, path: placeIn(i.path) }));
  const list = issues.map((i) => `  ${i.path}: ${i.message}`).join('\n');
  throw new RuddleError(
    'settings-invalid',
    `${what} has ${String(issues.length)} ${issues.length === 1 ? 'mistake' : 'mistakes'}:\n${list}`,
    { issues },
  );
}

type ZodIssue = z.core.$ZodIssue;

function flatten(issues: readonly ZodIssue[], prefix: PropertyKey[], input: unknown): Issue[] {
  return issues.flatMap((issue): Issue[] => {
    const path = [...prefix, ...issue.path];
    if (issue.code === 'unrecognized_keys') {
      return issue.keys.map((key) => ({ path: pathText([...path, key]), message: 'is not a field of Ruddle' }));
    }
    const found = valueAt(input, path);
    const shown = found === undefined ? 'it is missing' : `found ${short(found)}`;
    return [{ path: pathText(path), message: `${shown}; ${issue.message.charAt(0).toLowerCase()}${issue.message.slice(1)}` }];
  });
}

const short = (value: unknown): string => {
  const text = JSON.stringify(value);
  return text.length > 40 ? `${text.slice(0, 37)}...` : text;
};

function valueAt(input: unknown, path: readonly PropertyKey[]): unknown {
  let value = input;
  for (const key of path) {
    if (typeof value !== 'object' || value === null) return undefined;
    value = (value as Record<PropertyKey, unknown>)[key];
  }
  return value;
}

/** `variants[0].settings.detail.voxelSize` */
export function pathText(path: readonly PropertyKey[]): string {
  const text = path.map((p) => (typeof p === 'number' ? `[${String(p)}]` : `.${String(p)}`)).join('');
  return text.replace(/^\./, '') || '(the file itself)';
}

/** Deeper than any shot file: whatever walks it goes as deep. */
const DEEPEST = 64;

/** Reads a shot file's text, of this version or an older one. */
export function parseShotFile(text: string, file: string): ShotFile {
  const refuse = (reason: string, cause?: unknown): never => {
    throw new RuddleError('file-invalid', `${file} is not a shot file: ${reason}`, { file, reason }, cause);
  };
  // A mark that some editors put before a text.
  const bare = text.replace(/^\uFEFF/, '');
  if (nesting(bare) > DEEPEST) refuse(`lists and objects lie more than ${String(DEEPEST)} deep in each other.`);
  let json: unknown;
  try {
    json = JSON.parse(bare);
  } catch (cause) {
    return refuse(`it is not JSON: ${cause instanceof Error ? cause.message : String(cause)}`, cause);
  }
  return parseWith(shotFileSchema, upgradedFile(json), file, (path) => placeInFile(json, path));
}
