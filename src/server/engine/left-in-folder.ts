import { join } from 'node:path';
import { isSolvePlan, opsOf } from '#core/passes';
import { type Plan, optionsOf } from '#core/shot';
import { type RunFrameRecord, lookAtFile, readBytes, readRunRecord } from '#server/cache';
import type { Resume } from './run';

/**
 * What an interrupted run of the same plan left in a folder that no database knows of: its whole frames, and the newest whole states before the first frame that is missing.
 * null: nothing that it could go on from. `writeFrom`: first frame whose file is wanted.
 */
export async function leftInFolder(folder: string, plan: Plan, writeFrom: number | null): Promise<Resume | null> {
  const record = await readRunRecord(folder);
  if (!record || record.state === 'done' || !isSolvePlan(record.plan) || record.key !== opsOf(plan).key(plan)) return null;
  const { first, last, preRoll } = opsOf(plan).range(plan);
  const wanted = Array.from({ length: last - first + preRoll + 1 }, (_v, n) => first - preRoll + n);
  const before = new Map(record.frames.map((f) => [f.frame, f]));
  const frames: RunFrameRecord[] = [];
  for (const frame of wanted) {
    const told = before.get(frame);
    // Frames are computed in order: what comes after the first that is not whole is computed again.
    if (!told || !(await isWhole(folder, told, frame >= (writeFrom ?? first)))) break;
    frames.push(told);
  }
  const missing = wanted.slice(frames.length);
  const until = missing[missing.length - 1] ?? null;
  const states = [];
  for (const state of record.states ?? []) if ((await lookAtFile(folder, state)) === null) states.push(state);
  states.sort((a, b) => b.frame - a.frame);
  const from: (Uint8Array<ArrayBuffer> | null)[] = [];
  for (let bounds = 0; bounds < optionsOf(plan).length; bounds++) {
    const state = states.find((s) => s.bounds === bounds && s.frame < (missing[0] ?? Infinity));
    from.push(state ? new Uint8Array(await readBytes(join(folder, state.file))) : null);
  }
  // From the start it is a new run.
  return from.some((state) => state !== null) ? { frames, states, from, until } : null;
}

async function isWhole(folder: string, { files }: RunFrameRecord, written: boolean): Promise<boolean> {
  if (written && files.length === 0) return false;
  for (const file of files) if ((await lookAtFile(folder, file)) !== null) return false;
  return true;
}
