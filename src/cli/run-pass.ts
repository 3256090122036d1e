import { join } from 'node:path';
import { RuddleError } from '#core/errors';
import { type CachedRung, Chain, type ResolvedEntry, type ResolvedInput, opsOf } from '#core/passes';
import { type FileConvention, listFrames } from '#core/pass';
import { type InputRole, SOLVE, type ShotFile, type VariantFile, followersOf, planToRun, solveOf } from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import type { PassInputFiles } from '#protocol';
import { DiskGuard, type RunRecord, claimOutput, filesOfFolder, lookAtFile, lookAtFolders, readRunRecord } from '#server/cache';
import { type RunOutcome, type RunningRun, leftInFolder, startPassRun, startRun } from '#server/engine';

export interface PassRun {
  readonly shot: ShotFile;
  readonly variant: VariantFile;
  readonly pass: string;
  readonly rung: CachedRung;
  /** Each pass has a folder of its own in it: `solve-test`, `look-final`. */
  readonly out: string;
  readonly geometryFolder: string;
  readonly threads: number;
  /** Folders whose earlier contents may be replaced. */
  readonly overwrite: readonly string[];
  readonly json: boolean;
  /** Told of what is computed now, so that it can be ended. */
  readonly running: (run: RunningRun) => void;
}

type Planned = Extract<ResolvedEntry, { problem: null }>;

/** The chain of a variant, with the folders that its passes read. Runs of a server are none here. */
export async function chainOf(shot: ShotFile, { settings }: VariantFile): Promise<Chain> {
  const folders = await lookAtFolders([settings], shot);
  return new Chain(shot, settings, { run: () => null, folder: (path) => folders[path] ?? null });
}

function planned(entry: ResolvedEntry): Planned {
  if (entry.problem === null) return entry;
  throw new RuddleError('settings-invalid', entry.problem, { issues: [{ path: 'passes', message: entry.problem }] });
}

/** Whether a folder holds a whole run of this key: then it is not computed again. */
async function wholeRun(folder: string, key: string, frames: readonly number[]): Promise<RunRecord | null> {
  const record = await readRunRecord(folder);
  if (record?.key !== key || record.state !== 'done') return null;
  const have = new Set(record.frames.filter((f) => f.files.length > 0).map((f) => f.frame));
  if (!frames.every((f) => have.has(f))) return null;
  for (const file of record.frames.flatMap((f) => f.files)) if ((await lookAtFile(folder, file)) !== null) return null;
  return record;
}

/** Computes a pass, or `all`, and before it whatever it reads that is not there. null: it was there. Throws when what it reads did not come to its end. */
export async function runPass(run: PassRun): Promise<RunOutcome | null> {
  const chain = await chainOf(run.shot, run.variant);
  const on = followersOf(run.variant.settings)
    .filter((p) => p.enabled)
    .map((p) => p.id);
  const ids = run.pass === 'all' ? [SOLVE, ...on] : [run.pass];
  // Nothing is computed when one of them, or something further up, cannot be.
  for (const id of ids) if (id !== SOLVE) planned(chain.entry(id, run.rung));
  await mayWrite(run, chain, ids);
  let outcome: RunOutcome | null = null;
  for (const id of ids) {
    outcome = (await ensure(run, chain, id, run.rung)).outcome ?? outcome;
    if (outcome && outcome.state !== 'done') break;
  }
  return outcome;
}

/** Looks at all folders before the first frame: a refusal after a night helps nobody. Throws `refused`. */
async function mayWrite(run: PassRun, chain: Chain, ids: readonly string[]): Promise<void> {
  const looked = new Set<string>();
  const look = async (id: string, rung: CachedRung): Promise<void> => {
    const folder = join(run.out, `${id}-${rung}`);
    if (looked.has(folder)) return;
    looked.add(folder);
    const rules = { reads: [], kept: new Set<string>(), overwrite: run.overwrite };
    if (id === SOLVE) {
      const plan = planToRun(run.shot, solveOf(run.variant.settings), rung);
      const { first, last, preRoll } = opsOf(plan).range(plan);
      await claimOutput(folder, { ...rules, key: opsOf(plan).key(plan), range: [first - preRoll, last] });
      return;
    }
    const { plan, key, inputs } = planned(chain.entry(id, rung));
    const above = (input: ResolvedInput): string => input.folder ?? join(run.out, `${input.pass}-${input.rung}`);
    await claimOutput(folder, { ...rules, key, range: [plan.frames.first, plan.frames.last], reads: inputs.map(above) });
    for (const input of inputs) if (input.folder === null) await look(input.pass, input.rung);
  };
  for (const id of ids) await look(id, run.rung);
}

interface Ensured {
  readonly folder: string;
  readonly outcome: RunOutcome | null;
}

async function ensure(run: PassRun, chain: Chain, id: string, rung: CachedRung): Promise<Ensured> {
  const folder = join(run.out, `${id}-${rung}`);
  const names = { shot: run.shot.name, variant: run.variant.name, settings: run.variant.settings };
  const common = {
    ...names,
    folder,
    geometryFolder: run.geometryFolder,
    threads: run.threads,
    overwrite: run.overwrite,
    disk: new DiskGuard(run.out),
  };
  const onFrame = frameTold(run, id);
  if (id === SOLVE) {
    const plan = planToRun(run.shot, solveOf(run.variant.settings), rung);
    if (await wholeRun(folder, opsOf(plan).key(plan), listFrames(opsOf(plan).gives(plan).frames))) return there(run, id, folder);
    const left = await leftInFolder(folder, plan, null);
    const solve = { ...common, plan, onFrame, states: 'meanwhile' as const, ...(left ? { resume: left } : {}) };
    return { folder, outcome: await ended(run, startRun(solve), id) };
  }
  const { plan, key, inputs } = planned(chain.entry(id, rung));
  if (await wholeRun(folder, key, listFrames(plan.frames))) return there(run, id, folder);
  const read: Partial<Record<InputRole, PassInputFiles>> = {};
  for (const input of inputs) read[input.role] = await filesRead(run, chain, input, plan.gives.file);
  const { cache, ...beside } = read;
  if (!cache) throw new RuddleError('internal', 'A pass reads nothing.', { where: id });
  return { folder, outcome: await ended(run, startPassRun({ ...common, plan, key, inputs: { ...beside, cache }, onFrame }), id) };
}

/** The files of what a pass reads, computed first where they are not there. */
async function filesRead(run: PassRun, chain: Chain, input: ResolvedInput, file: FileConvention): Promise<PassInputFiles> {
  if (input.folder !== null) return await filesOfFolder(input.folder, input.key, file);
  const above = await ensure(run, chain, input.pass, input.rung);
  if (above.outcome && above.outcome.state !== 'done') {
    const reason = above.outcome.error?.message ?? 'it was interrupted';
    throw new RuddleError(above.outcome.error ? 'refused' : 'cancelled', `"${input.pass}" did not come to its end: ${reason}`, {
      reason: 'input',
    });
  }
  const gives = input.pass === SOLVE ? chain.solve(input.rung).gives : planned(chain.entry(input.pass, input.rung)).plan.gives;
  return await filesOf(above.folder, gives);
}

function there(run: PassRun, id: string, folder: string): Ensured {
  if (run.json) console.log(JSON.stringify({ kind: 'there', pass: id, folder }));
  else console.error(`${id}: is there already, in ${folder}`);
  return { folder, outcome: null };
}

async function filesOf(folder: string, gives: PassInputFiles['gives']): Promise<PassInputFiles> {
  const record = await readRunRecord(folder);
  // Volumes first, in the order of the parts; previews lie in a folder below.
  const frames = (record?.frames ?? []).map((f) => [f.frame, f.files.filter((w) => !w.file.includes('/'))] as const);
  return { folder, gives, frames: Object.fromEntries(frames) };
}

/** What is said of each frame as it is written. */
function frameTold(run: PassRun, pass: string) {
  return (f: { readonly frame: number; readonly bytes: number; readonly report: { readonly totalSeconds: number } }): void => {
    if (run.json) console.log(JSON.stringify({ kind: 'frame', pass, ...f }));
    else console.error(`${pass}: frame ${String(f.frame)}  ${formatSeconds(f.report.totalSeconds)}  ${formatBytes(f.bytes)}`);
  };
}

async function ended(run: PassRun, running: RunningRun, pass: string): Promise<RunOutcome> {
  run.running(running);
  const outcome = await running.outcome;
  if (run.json) console.log(JSON.stringify({ kind: 'outcome', pass, ...outcome }));
  return outcome;
}
