import { isRuddleError } from '#core/errors';
import type { CacheFacts, KernelDigests } from '#core/pass';
import { type PassSettings, type Rung, SOLVE, type Settings, type ShotFields, followersOf, resolvePlan, solveOf } from '#core/shot';
import type { FollowerPlan } from './follower';
import { definitionOf, opsOf } from './registry';

/** Rungs that are cached: a Sketch is not. */
export type CachedRung = Exclude<Rung, 'sketch'>;

/** What a pass reads: which pass at which rung, or a certain run of it. */
export interface ResolvedInput {
  readonly pass: string;
  readonly rung: CachedRung;
  readonly run: string | null;
  readonly folder: string | null;
  readonly key: string;
  /** What it is made of. */
  readonly output: CacheFacts['output'];
}

export type ResolvedEntry =
  | { readonly plan: FollowerPlan; readonly key: string; readonly input: ResolvedInput; readonly problem: null }
  | { readonly plan: null; readonly key: null; readonly input: null; readonly problem: string };

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
    private readonly kernels: KernelDigests,
    private readonly outside: Outside,
  ) {}

  solve(rung: CachedRung): Given {
    const known = this.#solves.get(rung);
    if (known) return known;
    const plan = resolvePlan(this.shot, solveOf(this.settings), rung);
    const ops = opsOf(plan);
    const solve = { key: ops.key(plan, this.kernels), gives: ops.gives(plan) };
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
    const wanted = entry.input;
    const at = wanted.rung === 'same' ? rung : wanted.rung;
    let given: Given;
    let input: ResolvedInput;
    if (wanted.folder !== null) {
      const found = this.outside.folder(wanted.folder);
      if (!found) return problem('The folder that it reads was not looked at yet.');
      if ('problem' in found) return problem(found.problem);
      given = found;
      input = { pass: wanted.pass, rung: at, run: null, folder: wanted.folder, key: found.key, output: found.gives.output };
    } else if (wanted.run !== null) {
      const pinned = this.outside.run(wanted.run);
      if (!pinned) return problem('The run that it is pinned to is gone: choose another one, or let it follow the sheet.');
      given = pinned;
      input = { pass: wanted.pass, rung: pinned.rung, run: wanted.run, folder: null, key: pinned.key, output: pinned.gives.output };
    } else if (wanted.pass === SOLVE) {
      given = this.solve(at);
      input = { pass: SOLVE, rung: at, run: null, folder: null, key: given.key, output: given.gives.output };
    } else {
      const above = this.entry(wanted.pass, at);
      if (above.plan === null) return problem(`What it reads cannot be computed. ${above.problem}`);
      given = { key: above.key, gives: above.plan.gives };
      input = { pass: wanted.pass, rung: at, run: null, folder: null, key: above.key, output: above.plan.gives.output };
    }
    return this.#plan(entry, rung, given, input);
  }

  #plan(entry: PassSettings, rung: CachedRung, { key: above, gives: facts }: Given, input: ResolvedInput): ResolvedEntry {
    const definition = definitionOf(entry.kind);
    if (!definition.accepts.includes(facts.output)) {
      const [wanted, given] = [definition.accepts.map((o) => OUTPUT[o]).join(' or '), OUTPUT[facts.output]];
      return problem(`${definition.title} reads ${wanted}; what "${entry.input.pass}" gives are ${given}. Let it read another pass.`);
    }
    const missing = (definition.needs[facts.output] ?? []).filter((c) => !facts.channels.includes(c));
    if (missing.length > 0) {
      const what = missing.map((c) => (c === 'vel' ? 'velocity' : c)).join(' and ');
      return problem(
        `It needs ${what}, which is not kept in what it reads. Keep it there (${entry.input.pass === SOLVE ? 'Keep' : 'its channels'}).`,
      );
    }
    try {
      const { body, frames, gives } = definition.resolve({ shot: this.shot, solve: solveOf(this.settings), input: facts }, entry.settings);
      const plan: FollowerPlan = {
        pass: entry.kind,
        rung,
        frames,
        inputs: [{ role: 'cache', key: above, ...(input.folder === null ? {} : { folder: input.folder }) }],
        body,
        gives: { ...gives, frames },
      };
      return { plan, key: opsOf(plan).key(plan, this.kernels), input, problem: null };
    } catch (error) {
      if (isRuddleError(error, 'settings-invalid')) return problem(error.message);
      throw error;
    }
  }
}

const OUTPUT = { vdb: 'volumes', ply: 'particles', picture: 'pictures' } as const;

const problem = (text: string): ResolvedEntry => ({ plan: null, key: null, input: null, problem: text });
