import { isRuddleError } from '#core/errors';
import type { CacheFacts, Readable } from '#core/pass';
import {
  type InputRole,
  type PassInput,
  type PassSettings,
  type Rung,
  SOLVE,
  type Settings,
  type ShotFields,
  followersOf,
  inputsOf,
  resolvePlan,
  solveOf,
} from '#core/shot';
import type { FollowerPlan } from './follower';
import { definitionOf, opsOf } from './registry';

/** Rungs that are cached: a Sketch is not. */
export type CachedRung = Exclude<Rung, 'sketch'>;

/** What a pass reads: which pass at which rung, or a certain run of it. */
export interface ResolvedInput {
  readonly role: InputRole;
  readonly pass: string;
  readonly rung: CachedRung;
  readonly run: string | null;
  readonly folder: string | null;
  readonly key: string;
  /** What it is made of. */
  readonly output: CacheFacts['output'];
}

export type ResolvedEntry =
  | {
      readonly plan: FollowerPlan;
      readonly key: string;
      /** What its frames are made from; and all that it reads, this one first. */
      readonly input: ResolvedInput;
      readonly inputs: readonly ResolvedInput[];
      readonly problem: null;
    }
  | { readonly plan: null; readonly key: null; readonly input: null; readonly inputs: readonly never[]; readonly problem: string };

/** A run that a pass is pinned to, as far as it is known. */
export interface PinnedRun {
  readonly key: string;
  readonly rung: CachedRung;
  readonly gives: CacheFacts;
}

/** A folder of files that a pass reads, as far as it is known; or why it cannot be read. */
export type FolderFacts = { readonly key: string; readonly gives: CacheFacts } | { readonly problem: string };

/** What a sheet speaks of that it does not hold. null: not known. */
export interface Outside {
  readonly run: (id: string) => PinnedRun | null;
  readonly folder: (path: string) => FolderFacts | null;
}

interface Given {
  readonly key: string;
  readonly gives: CacheFacts;
}

/**
 * The plans of a shot's passes, resolved from the solve on: each with its run key, which holds the keys of what it reads, so that what is stale above makes
 * everything below stale by itself. A pass that cannot be resolved says why, and so do those that read it.
 */
export class Chain {
  readonly #solves = new Map<CachedRung, Given>();
  readonly #entries = new Map<string, ResolvedEntry>();

  constructor(
    private readonly shot: ShotFields,
    private readonly settings: Settings,
    private readonly outside: Outside,
  ) {}

  solve(rung: CachedRung): Given {
    const known = this.#solves.get(rung);
    if (known) return known;
    const plan = resolvePlan(this.shot, solveOf(this.settings), rung);
    const ops = opsOf(plan);
    const solve = { key: ops.key(plan), gives: ops.gives(plan) };
    this.#solves.set(rung, solve);
    return solve;
  }

  entry(id: string, rung: CachedRung): ResolvedEntry {
    const at = `${id}/${rung}`;
    const known = this.#entries.get(at);
    if (known) return known;
    const resolved = this.#resolve(id, rung);
    this.#entries.set(at, resolved);
    return resolved;
  }

  #resolve(id: string, rung: CachedRung): ResolvedEntry {
    const entry = followersOf(this.settings).find((p) => p.id === id);
    if (!entry) return problem(`There is no pass "${id}".`);
    const given: { readonly input: ResolvedInput; readonly gives: CacheFacts }[] = [];
    for (const { role, input } of inputsOf(entry)) {
      const found = this.#given(role, input, rung);
      if (typeof found === 'string') return problem(found);
      given.push(found);
    }
    return this.#plan(entry, rung, given);
  }

  /** What is read in a role, or why it cannot be. */
  #given(role: InputRole, wanted: PassInput, rung: CachedRung): { readonly input: ResolvedInput; readonly gives: CacheFacts } | string {
    const at = wanted.rung === 'same' ? rung : wanted.rung;
    const of = ({ key, gives }: Given, own: Partial<ResolvedInput> = {}): { input: ResolvedInput; gives: CacheFacts } => ({
      input: { role, pass: wanted.pass, rung: at, run: null, folder: null, key, output: gives.output, ...own },
      gives,
    });
    if (wanted.folder !== null) {
      const found = this.outside.folder(wanted.folder);
      if (!found) return 'The folder that it reads was not looked at yet.';
      return 'problem' in found ? found.problem : of(found, { folder: wanted.folder });
    }
    if (wanted.run !== null) {
      const pinned = this.outside.run(wanted.run);
      if (!pinned) return 'The run that it is pinned to is gone: choose another one, or let it follow the sheet.';
      return of(pinned, { rung: pinned.rung, run: wanted.run });
    }
    if (wanted.pass === SOLVE) return of(this.solve(at));
    const above = this.entry(wanted.pass, at);
    return above.plan === null ? `What it reads cannot be computed. ${above.problem}` : of({ key: above.key, gives: above.plan.gives });
  }

  #plan(
    entry: PassSettings,
    rung: CachedRung,
    given: readonly { readonly input: ResolvedInput; readonly gives: CacheFacts }[],
  ): ResolvedEntry {
    const definition = definitionOf(entry.kind);
    for (const { input, gives } of given) {
      const readable = input.role === 'cache' ? definition : definition.beside?.[input.role];
      const wrong = readable && unreadable(definition.title, readable, input, gives);
      if (wrong) return problem(wrong);
    }
    const [first] = given;
    if (!first) return problem('It reads nothing.');
    const beside = Object.fromEntries(given.slice(1).map(({ input, gives }) => [input.role, gives]));
    const context = { shot: this.shot, solve: solveOf(this.settings), rung, input: first.gives, beside };
    try {
      const { body, frames, gives } = definition.resolve(context, entry.settings);
      const plan: FollowerPlan = {
        pass: entry.kind,
        rung,
        frames,
        inputs: given.map(({ input: { role, key, folder } }) => ({ role, key, ...(folder === null ? {} : { folder }) })),
        body,
        gives: { ...gives, frames },
      };
      const inputs = given.map((g) => g.input);
      return { plan, key: opsOf(plan).key(plan), input: first.input, inputs, problem: null };
    } catch (error) {
      if (isRuddleError(error, 'settings-invalid')) return problem(error.message);
      throw error;
    }
  }
}

/** Why a kind cannot read a cache, and what to do; null: it can. */
function unreadable(title: string, { accepts, needs }: Readable, { role, pass }: ResolvedInput, facts: CacheFacts): string | null {
  const it = role === 'cache' ? title : `${title}, for its ${role},`;
  if (!accepts.includes(facts.output)) {
    const [wanted, given] = [accepts.map((o) => OUTPUT[o]).join(' or '), OUTPUT[facts.output]];
    return `${it} reads ${wanted}; what "${pass}" gives are ${given}. Let it read another pass.`;
  }
  const missing = (needs[facts.output] ?? []).filter((c) => !facts.channels.includes(c));
  if (missing.length === 0) return null;
  const what = missing.map((c) => (c === 'vel' ? 'velocity' : c)).join(' and ');
  return `It needs ${what}, which is not kept in what it reads. Keep it there (${pass === SOLVE ? 'Keep' : 'its channels'}).`;
}

const OUTPUT = { vdb: 'volumes', ply: 'particles', picture: 'pictures', mesh: 'meshes' } as const;

const problem = (text: string): ResolvedEntry => ({ plan: null, key: null, input: null, inputs: [], problem: text });
