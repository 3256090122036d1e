import { RuddleError } from '#core/errors';
import { type Json, completedPlan } from './old-plans';

/** Of shot files and of everything that is stored; raised, with a step below, when what an older one holds would be refused or mean something else. */
export const SHOT_VERSION = 5;

/** What is kept apart of a shot: its own fields, a variant's settings, a run's plan. */
export type Part = 'fields' | 'settings' | 'plan';

/** From one version to the next. What a part does not name stays as it is. */
type Step = Partial<Readonly<Record<Part, (stored: Json) => Json>>>;

const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v);

function withScheme(settings: Json): Json {
  const matter = isObject(settings['matter']) ? settings['matter'] : {};
  return { ...settings, matter: { scalarAdvection: 'maccormack', ...matter } };
}

/** The scene apart, and the solve an entry of the passes. */
function withEntries({ scale, solids, passes, ...solve }: Json): Json {
  const followers: unknown[] = Array.isArray(passes) ? passes : [];
  const scene = { ...(scale === undefined ? {} : { scale }), ...(solids === undefined ? {} : { solids }) };
  return { scene, passes: [{ id: 'solve', kind: 'gas', name: 'Solve', settings: solve }, ...followers] };
}

const listOf = (v: unknown): readonly unknown[] => (Array.isArray(v) ? v : []);

/** Sources of a liquid that emitted as much as fell out of them say so; those with a rate keep it, and give it now. */
function keepingFull(source: unknown): unknown {
  if (!isObject(source) || source['act'] !== 'emits' || typeof source['volumeRate'] === 'number') return source;
  return { ...source, act: 'keeps' };
}

const withKept = (holder: Json): Json =>
  holder['sources'] === undefined ? holder : { ...holder, sources: listOf(holder['sources']).map(keepingFull) };

/** A solid that was not widened is so for liquids only now. */
const widenedInWords = (solid: unknown): unknown =>
  isObject(solid) && typeof solid['widen'] === 'boolean' ? { ...solid, widen: solid['widen'] ? 'always' : 'liquids' } : solid;

function withWords(settings: Json): Json {
  const { scene } = settings;
  if (!isObject(scene) || !Array.isArray(scene['solids'])) return settings;
  return { ...settings, scene: { ...scene, solids: listOf(scene['solids']).map(widenedInWords) } };
}

function keptInSettings(old: Json): Json {
  const settings = withWords(old);
  if (!Array.isArray(settings['passes'])) return settings;
  const passes = listOf(settings['passes']).map((pass) =>
    isObject(pass) && pass['kind'] === 'liquid' && isObject(pass['settings']) ? { ...pass, settings: withKept(pass['settings']) } : pass,
  );
  return { ...settings, passes };
}

/** A plan that was run keeps what its numbers are; only what its sources do is named as it is now. */
function keptInPlan(plan: Json): Json {
  const { options } = plan;
  if (plan['pass'] !== 'liquid' || !isObject(options)) return plan;
  const opened = listOf(options['sources']).map((s) => (isObject(s) ? { opening: 'shape', ...s } : s));
  return { ...plan, options: withKept({ ...options, sources: opened }) };
}

/** The first turns version 1 into 2. Never edited once it was released: what comes later is one more step. */
const STEPS: readonly Step[] = [
  // Plans of version 1 lack whatever came after they were stored; from 2 on a plan is complete when it is stored.
  { plan: completedPlan },
  // Until version 2 matter that named no scheme was moved by MacCormack: it keeps it.
  { settings: withScheme },
  // Until version 3 the solve's groups stood beside the passes that read it.
  { settings: withEntries },
  // Until version 5 a source that emits kept its shape full, whatever rate was asked for.
  { settings: keptInSettings, plan: keptInPlan },
];

/** What was written by no version of Ruddle, or by a newer one. */
const unreadable = (what: string, reason: string): RuddleError<'unreadable'> =>
  new RuddleError('unreadable', `${what} cannot be read: ${reason}.`, { what, reason });

function versionOf(value: Json, what: string): number {
  const version = value['ruddle'] ?? 1;
  if (!Number.isInteger(version) || Number(version) < 1) throw unreadable(what, `its version is ${JSON.stringify(version)}`);
  if (Number(version) > SHOT_VERSION)
    throw unreadable(
      what,
      `it is of version ${String(Number(version))}, from a newer Ruddle; this one reads up to ${String(SHOT_VERSION)}`,
    );
  return Number(version);
}

/** A stored part as this version has it, its stamp taken off. Throws `unreadable`. */
export function upgraded(part: Part, stored: unknown, what: string): Json {
  if (!isObject(stored)) throw unreadable(what, 'it is no object');
  const { ruddle: _stamp, ...value } = stored;
  return STEPS.slice(versionOf(stored, what) - 1).reduce<Json>((v, step) => step[part]?.(v) ?? v, value);
}

/** A shot file's JSON as this version has it; what is no shot file stays, for the schema to say so. */
export function upgradedFile(json: unknown): unknown {
  if (!isObject(json) || !Number.isInteger(json['ruddle']) || Number(json['ruddle']) < 1 || Number(json['ruddle']) >= SHOT_VERSION)
    return json;
  const { ruddle, variants, ...fields } = json;
  const stamped = (value: unknown): unknown => (isObject(value) ? { ...value, ruddle } : value);
  const part = (which: Part, value: unknown): unknown => (isObject(value) ? upgraded(which, stamped(value), which) : value);
  return {
    ruddle: SHOT_VERSION,
    ...(part('fields', fields) as Json),
    variants: Array.isArray(variants)
      ? variants.map((v: unknown) => (isObject(v) && 'settings' in v ? { ...v, settings: part('settings', v['settings']) } : v))
      : variants,
  };
}

/** Until this version a shot file had the scene and the solve's groups in its settings themselves. */
const BEFORE_ENTRIES = 3;

/** A place in a shot file as its own version writes it, from where an upgraded one has it. */
export function placeInFile(json: unknown, path: string): string {
  const version = isObject(json) ? Number(json['ruddle']) : SHOT_VERSION;
  if (!(version <= BEFORE_ENTRIES)) return path;
  return path
    .replace(/^(variants\[\d+\]\.settings)\.(scene|passes\[0\]\.settings)\./, '$1.')
    .replace(/^(variants\[\d+\]\.settings\.passes)\[(\d+)\]/, (_all, list: string, n: string) => `${list}[${String(Number(n) - 1)}]`);
}
