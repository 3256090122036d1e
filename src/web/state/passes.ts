import { type UseQueryResult, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import {
  type CachedRung,
  Chain,
  type PassPrediction,
  FOLLOWERS,
  type PinnedRun,
  type ResolvedEntry,
  opsOf,
  factorsOf,
  predictPass,
} from '#core/passes';
import type { CacheFacts } from '#core/pass';
import {
  type FollowerKind,
  type PassKind,
  type PassSettings,
  SOLVE,
  type Settings,
  type ShotFields,
  cacheState,
  followersOf,
  inputsOf,
  solveKindOf,
  solveOf,
  withFollowers,
} from '#core/shot';
import type { CacheState, PassDetailDto, PassRunDto, RunDto, ShotDto } from '#protocol';
import { api } from './api';
import { fetchRun, useStatus } from './queries';

/** A pass of the sheet as it stands: what there is of it, and what it would cost. */
export interface PassState {
  readonly id: string;
  readonly kind: PassKind;
  readonly name: string;
  readonly enabled: boolean;
  /** The run that is held against the sheet: a fresh one, else one that goes on, else the newest that holds frames. */
  readonly run: RunDto | PassRunDto | null;
  readonly state: CacheState;
  /** Whether a whole cache of each rung is there, for these settings. */
  readonly fresh: Readonly<Record<CachedRung, boolean>>;
  /** Why it is stale, or cannot be computed. */
  readonly because: string | null;
  readonly problem: string | null;
  /** What the cache that it reads is made of; null: of none, or not known. */
  readonly reads: CacheFacts['output'] | null;
  /** Of what it makes, metres; null: it has no voxels, or cannot be computed. */
  readonly voxelSize: Readonly<Record<CachedRung, number | null>>;
  /** How far apart the particles lie that it reads or makes, metres, where that is known. */
  readonly spacing: Readonly<Record<CachedRung, number | null>>;
  readonly test: PassPrediction | null;
  readonly final: PassPrediction | null;
}

/** Voxels of each frame of a solve, as predicted. */
export type SolveLoads = Readonly<Record<CachedRung, ((frame: number) => number) | null>>;

interface Given {
  readonly shot: Pick<ShotDto, 'runs' | 'passRuns' | 'measures' | 'folders'>;
  readonly settings: Settings;
  readonly fields: ShotFields;
  readonly loads: SolveLoads;
  readonly threads: number;
}

const RUNGS = ['final', 'test'] as const;
const active = (run: { readonly state: string }): boolean => ['queued', 'running', 'paused'].includes(run.state);

/** What a run's cache is like. */
export const givesOf = (run: RunDto | PassRunDto): CacheFacts => ('inputs' in run ? run.plan.gives : opsOf(run.plan).gives(run.plan));

export function chainOf({ shot, settings, fields }: Pick<Given, 'shot' | 'settings' | 'fields'>): Chain {
  const run = (id: string): PinnedRun | null => {
    const found = [...shot.runs, ...shot.passRuns].find((r) => r.id === id && !r.freed);
    return found ? { key: found.key, rung: found.rung, gives: givesOf(found) } : null;
  };
  return new Chain(fields, settings, { run, folder: (path) => shot.folders[path] ?? null });
}

/** The passes of a sheet in order, the solve first. */
export function passStates(given: Given): PassState[] {
  const { shot, settings, fields, loads, threads } = given;
  const chain = chainOf(given);
  const names = new Map([[SOLVE, 'Solve'], ...followersOf(settings).map((p) => [p.id, p.name] as const)]);
  const wanted = fields.lastFrame - fields.firstFrame + fields.preRoll + 1;
  const solveKeys = { test: chain.solve('test').key, final: chain.solve('final').key };
  const solveRun = pick(shot.runs, (r) => solveKeys[r.rung]);
  const solve: PassState = {
    id: SOLVE,
    kind: solveKindOf(solveOf(settings)),
    name: 'Solve',
    enabled: true,
    run: solveRun,
    state: solveRun ? cacheState(solveRun, solveKeys[solveRun.rung], wanted) : 'missing',
    fresh: freshOf(shot.runs, solveKeys, () => wanted),
    because: null,
    problem: null,
    reads: null,
    voxelSize: { test: null, final: null },
    spacing: { test: null, final: null },
    test: null,
    final: null,
  };
  const states: PassState[] = [{ ...solve, because: solve.state === 'stale' ? 'its own settings' : null }];
  /** What each frame of a pass has for the next, by pass and rung. */
  const gives = new Map<string, (frame: number) => number>();
  for (const rung of RUNGS) {
    const load = loads[rung];
    if (load) gives.set(`${SOLVE}/${rung}`, load);
  }
  for (const entry of followersOf(settings)) {
    const resolved = { test: chain.entry(entry.id, 'test'), final: chain.entry(entry.id, 'final') };
    const predictions = { test: null as PassPrediction | null, final: null as PassPrediction | null };
    const factors = factorsOf(entry.kind, entry.id, shot.measures);
    for (const rung of RUNGS) {
      const r = resolved[rung];
      if (!r.plan) continue;
      // Of files of a folder it is not known what they hold.
      const [load, ...beside] = r.inputs.map((i) => (i.folder === null ? gives.get(`${i.pass}/${i.rung}`) : undefined));
      if (!load) continue;
      const p = predictPass(r.plan, load, factors, threads, (f) => beside.reduce((sum, of) => sum + (of?.(f) ?? 0), 0));
      predictions[rung] = p;
      gives.set(`${entry.id}/${rung}`, (frame) => p.gives.get(frame) ?? 0);
    }
    const own = shot.passRuns.filter((r) => r.passId === entry.id && r.kind === entry.kind);
    const run = pick(own, (r) => resolved[r.rung].key ?? '');
    const now = run ? resolved[run.rung] : null;
    const state = run ? cacheState(run, now?.key ?? '', run.frameCount) : 'missing';
    const above = inputsOf(entry).map(({ input }) => (input.folder !== null ? null : (names.get(input.pass) ?? input.pass)));
    states.push({
      id: entry.id,
      kind: entry.kind,
      name: entry.name,
      enabled: entry.enabled,
      run,
      state,
      fresh: freshOf(own, { test: resolved.test.key, final: resolved.final.key }, (r) => r.frameCount),
      because: state === 'stale' && run && now ? whyStale(run, now, above) : null,
      problem: resolved.final.problem,
      reads: resolved.final.input?.output ?? null,
      voxelSize: { test: resolved.test.plan?.gives.voxelSizes[0] ?? null, final: resolved.final.plan?.gives.voxelSizes[0] ?? null },
      spacing: { test: resolved.test.plan?.gives.spacing ?? null, final: resolved.final.plan?.gives.spacing ?? null },
      ...predictions,
    });
  }
  return states;
}

export type PassPredictor = (rung: CachedRung, change: (entry: PassSettings) => PassSettings) => PassPrediction | null;

/** Predicts a pass as it would be after a change of its settings, from what it reads as that stands; null: it cannot be, or nothing is known of that. */
export function passPredictor({ shot, settings, fields, loads, threads }: Given, states: readonly PassState[], id: string): PassPredictor {
  return (rung, change) => {
    const changed = withFollowers(
      settings,
      followersOf(settings).map((p) => (p.id === id ? change(p) : p)),
    );
    const { plan, inputs } = chainOf({ shot, settings: changed, fields }).entry(id, rung);
    if (!plan) return null;
    const [load, ...beside] = inputs.map((i): ((frame: number) => number) | null => {
      if (i.folder !== null) return null;
      if (i.pass === SOLVE) return loads[i.rung];
      const gives = states.find((s) => s.id === i.pass)?.[i.rung]?.gives;
      return gives ? (frame) => gives.get(frame) ?? 0 : null;
    });
    if (!load) return null;
    const factors = factorsOf(plan.pass, id, shot.measures);
    return predictPass(plan, load, factors, threads, (f) => beside.reduce((sum, of) => sum + (of?.(f) ?? 0), 0));
  };
}

/** `above`: names of what it reads; null: files of a folder. */
const whyStale = (run: PassRunDto, now: ResolvedEntry, above: readonly (string | null)[]): string => {
  if (!now.plan) return now.problem;
  const other = now.plan.inputs.findIndex(({ role, key }) => run.plan.inputs.find((i) => i.role === role)?.key !== key);
  if (other < 0) return 'its own settings';
  const name = above[other] ?? null;
  return name === null ? 'the files that it reads, which are others' : `${name}, which it reads, has other settings`;
};

function freshOf<R extends RunDto | PassRunDto>(
  runs: readonly R[],
  keys: Readonly<Record<CachedRung, string | null>>,
  wanted: (run: R) => number,
): PassState['fresh'] {
  const whole = (rung: CachedRung): boolean => runs.some((r) => r.rung === rung && cacheState(r, keys[rung] ?? '', wanted(r)) === 'fresh');
  return { test: whole('test'), final: whole('final') };
}

/** The run that says how a pass stands: one whose key is the sheet's (the Final first), else one that goes on, else the newest with frames. */
function pick<R extends RunDto | PassRunDto>(runs: readonly R[], keyNow: (run: R) => string): R | null {
  const there = runs.filter((r) => !r.freed);
  const fresh = there.filter((r) => r.key === keyNow(r) && (r.framesDone > 0 || active(r)));
  return (
    fresh.findLast((r) => r.rung === 'final') ??
    fresh[fresh.length - 1] ??
    there.findLast(active) ??
    there.findLast((r) => r.framesDone > 0) ??
    there[there.length - 1] ??
    null
  );
}

interface Cost {
  readonly seconds: number;
  readonly bytes: number;
}

/** What would be computed before a pass, because it reads it and it is not there. `solve`: what the solve would cost. */
export function costOfInputs(
  states: readonly PassState[],
  settings: Settings,
  solve: Readonly<Record<CachedRung, Cost | null>>,
  id: string,
  rung: CachedRung,
): Cost {
  const cost = { seconds: 0, bytes: 0 };
  const followers = followersOf(settings);
  const counted = new Set<string>();
  const count = (of: string, at: CachedRung): void => {
    const entry = followers.find((p) => p.id === of);
    for (const { input } of entry ? inputsOf(entry) : []) {
      if (input.run !== null || input.folder !== null) continue;
      const above = { id: input.pass, rung: input.rung === 'same' ? at : input.rung };
      const state = states.find((s) => s.id === above.id);
      // What is there needs nothing above it; what two read is computed once.
      if (state?.fresh[above.rung] === true || counted.has(`${above.id}/${above.rung}`)) continue;
      counted.add(`${above.id}/${above.rung}`);
      const own = above.id === SOLVE ? solve[above.rung] : (state?.[above.rung] ?? null);
      cost.seconds += own?.seconds ?? 0;
      cost.bytes += own?.bytes ?? 0;
      count(above.id, above.rung);
    }
  };
  count(id, rung);
  return cost;
}

/** Caches that are whole now, and would be of other settings after a change of one pass. */
export interface WouldBeStale {
  readonly passes: readonly { readonly name: string; readonly rungs: readonly CachedRung[] }[];
  /** Of computing them again. */
  readonly seconds: number;
  readonly bytes: number;
}

/** What a change of a pass's settings makes stale: its own whole caches, and those of the passes that follow it. */
export function staleAfter(
  states: readonly PassState[],
  settings: Settings,
  solve: Readonly<Record<CachedRung, Cost | null>>,
  id: string,
): WouldBeStale {
  const changed = new Set([id]);
  // A pass comes after what it reads; one that is pinned to a run, or reads a folder, follows nothing.
  for (const pass of followersOf(settings))
    if (inputsOf(pass).some(({ input }) => input.run === null && input.folder === null && changed.has(input.pass))) changed.add(pass.id);
  const lost = states
    .filter((s) => changed.has(s.id))
    .map((s) => ({ state: s, rungs: (['test', 'final'] as const).filter((r) => s.fresh[r]) }))
    .filter(({ rungs }) => rungs.length > 0);
  const costs = lost.flatMap(({ state, rungs }) => rungs.map((r) => (state.id === SOLVE ? solve[r] : state[r])));
  const sum = (of: (cost: Cost) => number): number => costs.reduce((n, cost) => n + (cost ? of(cost) : 0), 0);
  return {
    passes: lost.map(({ state, rungs }) => ({ name: state.name, rungs })),
    seconds: sum((cost) => cost.seconds),
    bytes: sum((cost) => cost.bytes),
  };
}

const NO_LOADS: SolveLoads = { test: null, final: null };

export function usePassStates(shot: ShotDto, settings: Settings, fields: ShotFields, loads: SolveLoads = NO_LOADS): readonly PassState[] {
  const status = useStatus().data;
  return useMemo(
    () => (status ? passStates({ shot, settings, fields, loads, threads: status.threads }) : []),
    [shot, settings, fields, status, loads],
  );
}

/** A run of a pass with its frames. */
export const usePassRun = (id: string | null): UseQueryResult<PassDetailDto> =>
  useQuery({ queryKey: ['run', id], queryFn: () => fetchRun<PassDetailDto>(id ?? '', api.passRun), enabled: id !== null });

/** Kinds that can be added, as they are shown. */
export const passKinds = (Object.keys(FOLLOWERS) as FollowerKind[]).map((kind) => ({
  kind,
  title: FOLLOWERS[kind].title,
  about: FOLLOWERS[kind].about,
}));
