import * as z from 'zod';
import { definitionOf } from '#core/passes';
import {
  GROUPS,
  SHOT_VERSION,
  type FieldMeta,
  type FollowerKind,
  inner,
  liquidSolveSchema,
  metaOf,
  passSchema,
  shotFieldsSchema,
  solveSchema,
} from '#core/shot';
import { UNITS, formatQuantity } from '#core/units';

// SI in the file, whatever a form shows.
const SI: Readonly<Record<string, string>> = { celsius: 'K', hour: 's', gigabyte: 'bytes' };
const unitOf = (meta: FieldMeta): string => (meta.unit ? (SI[meta.unit] ?? UNITS[meta.unit].symbol) : '');

function range(meta: FieldMeta, bare: z.ZodType): string {
  if (bare instanceof z.ZodEnum) return bare.options.map((o) => `\`${String(o)}\``).join(' ');
  if (bare instanceof z.ZodBoolean) return '`true` `false`';
  if (meta.min === undefined) return '';
  return `${String(meta.min)} to ${String(meta.max)}`;
}

function initial(schema: z.ZodType): string {
  if (schema instanceof z.ZodPrefault) return '';
  if (!(schema instanceof z.ZodDefault)) return 'required';
  const value = schema.parse(undefined);
  return `\`${JSON.stringify(value)}\``;
}

function rows(schema: z.ZodType, path: string): string[] {
  const bare = inner(schema);
  const meta = metaOf(schema);
  if (bare instanceof z.ZodObject) {
    const own =
      meta && path !== '' ? [`| \`${path}\` | | | ${initial(schema)} | ${meta.help}${meta.none ? ` \`null\`: ${meta.none}.` : ''} |`] : [];
    return [
      ...own,
      ...Object.entries(bare.shape as Record<string, z.ZodType>).flatMap(([k, s]) => rows(s, path === '' ? k : `${path}.${k}`)),
    ];
  }
  if (bare instanceof z.ZodArray) return rows(bare.element as z.ZodType, `${path}[]`);
  if (bare instanceof z.ZodDiscriminatedUnion) {
    const options = bare.options as unknown as z.ZodObject[];
    const kinds = options.map((o) => String(((o.shape as Record<string, z.ZodType>)['kind'] as z.ZodLiteral).value));
    const seen = new Set<string>();
    const fields = options.flatMap((o) =>
      Object.entries(o.shape as Record<string, z.ZodType>).flatMap(([k, s]) => {
        if (k === 'kind' || seen.has(k)) return [];
        seen.add(k);
        const having = kinds.filter((_kind, m) => k in options[m]!.shape);
        const only = having.length < kinds.length ? ` (${having.join(', ')})` : '';
        return rows(s, `${path}.${k}`).map((r) => r.replace(/ \|$/, `${only} |`));
      }),
    );
    return [`| \`${path}.kind\` | | ${kinds.map((k) => `\`${k}\``).join(' ')} | required | ${meta?.help ?? ''} |`, ...fields];
  }
  if (!meta) return [];
  const none = meta.none ? ` \`null\`: ${meta.none}.` : '';
  return [`| \`${path}\` | ${unitOf(meta)} | ${range(meta, bare)} | ${initial(schema)} | ${meta.help}${none} |`];
}

const HEAD = '| field | unit | range | default | what it does |\n| --- | --- | --- | --- | --- |';

/** A kind of pass: what all have is said once, before. */
function passKind(option: z.ZodObject): string {
  const shape = option.shape as Record<string, z.ZodType>;
  const kind = String((shape['kind'] as z.ZodLiteral).value) as FollowerKind;
  const { about } = definitionOf(kind);
  return `### \`passes[]\` of kind \`${kind}\`\n\n${about}\n\n${HEAD}\n${rows(shape['settings'] ?? z.never(), 'passes[].settings').join('\n')}\n`;
}

/** Groups of the solve's sheet that are of the scene. */
const SCENE = ['scale', 'solids'] as const;

/** The page about shot files, from the schema. */
export function shotFilePage(): string {
  const of = (solve: Readonly<Record<string, z.ZodType>>, name: keyof typeof GROUPS, path: string): string =>
    `### ${GROUPS[name].title}: ${GROUPS[name].question}\n\n${HEAD}\n${rows(solve[name] ?? z.never(), path).join('\n')}\n`;
  const group = (name: keyof typeof GROUPS, path: string): string => of(solveSchema.shape, name, path);
  const ofScene = SCENE.map((name) => group(name, `scene.${name}`));
  const ofSolve = (Object.keys(GROUPS) as (keyof typeof GROUPS)[]).filter((g) => !SCENE.some((s) => s === g)).map((g) => group(g, g));
  const ofLiquid = (Object.keys(GROUPS) as (keyof typeof GROUPS)[])
    .filter((g) => g in liquidSolveSchema.shape && !SCENE.some((name) => name === g))
    .map((g) => of(liquidSolveSchema.shape, g, g));
  const options = passSchema.options as unknown as z.ZodObject[];
  const common = (['id', 'name', 'enabled', 'input'] as const).flatMap((k) => {
    const schema = (options[0]?.shape as Record<string, z.ZodType> | undefined)?.[k];
    return schema ? rows(schema, `passes[].${k}`) : [];
  });
  return `# The shot file

<!-- Written by \`npm run docs\` from src/core/shot. Do not edit. -->

A shot is one JSON file. Values are SI: metres, seconds, kelvin, bytes. Only \`ruddle\`, \`name\` and \`variants\` are required; what is left
out takes its default. A file that is not valid gets an error that names each place, what was found there and what is allowed, all at once.
\`ruddle schema\` prints the JSON Schema; \`demo/\` holds files to begin with.

| field | unit | range | default | what it does |
| --- | --- | --- | --- | --- |
| \`ruddle\` | | \`${String(SHOT_VERSION)}\` | required | Schema version of the file. |
${rows(shotFieldsSchema, '').join('\n')}
| \`variants[]\` | | at least 1 | required | Complete, named sets of settings. |
| \`variants[].name\` | | 1 to 80 characters | required | Unique in the shot. |
| \`variants[].parent\` | | | \`null\` | Name of the variant it was made from. |
| \`variants[].settings.scene\` | | | | What all passes have in common: Scale and Solids below. |
| \`variants[].settings.passes[]\` | | 1 to 17 | a gas solve | What is computed, in order; the first is the solve, \`{ "id": "solve", "kind": "gas", "name": "Solve" }\` or one of kind \`liquid\`, whose \`settings\` are the other seven groups. |

Files of versions 1 to 3, with the nine groups in \`settings\` itself, are read too.

A temperature of ${formatQuantity(293.15, 'celsius')} is written as 293.15.

## The scene

In \`variants[].settings\`.

${ofScene.join('\n')}
## The gas solve

In \`variants[].settings.passes[0].settings\`.

${ofSolve.join('\n')}
## The liquid solve

Of a first pass of kind \`liquid\`, in \`variants[].settings.passes[0].settings\`:

\`\`\`json
{ "id": "solve", "kind": "liquid", "name": "Solve", "settings": { "sources": [{ "shape": { "kind": "box" } }] } }
\`\`\`

Up to version 4 a source that \`emits\` without a \`volumeRate\` kept its shape full; it is read as one that \`keeps\` it.

${ofLiquid.join('\n')}
## Passes after the solve

A list; each reads the solve or a pass before it, and has a cache of its own.

${HEAD}
${common.join('\n')}

${options.map(passKind).join('\n')}`;
}
