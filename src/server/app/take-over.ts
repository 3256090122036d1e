import { and, desc, eq, inArray, isNull, ne, sql } from 'drizzle-orm';
import { isSolvePlan, opsOf } from '#core/passes';
import { type Plan, optionsOf, sameUntil } from '#core/shot';
import { type RunFrameRecord, linkFiles } from '#server/cache';
import { type Database, tables } from '#server/db';
import type { StoredState } from '#server/engine';
import { leftOf } from './resume';
import type { RunRow } from './run-dtos';

interface Part {
  readonly base: RunRow;
  readonly frame: number;
  readonly frames: readonly RunFrameRecord[];
  readonly states: readonly StoredState[];
}

/** How far a run can begin with what another one left: its newest states before the first frame that would come out differently. */
async function partOf(db: Database, plan: Plan, base: RunRow): Promise<Part | null> {
  if (base.plan.problem !== null) return null;
  const other = base.plan.value;
  if (!isSolvePlan(other) || base.key !== opsOf(other).key(other)) return null;
  const until = sameUntil(plan, other);
  // The very same is computed anew when that is asked for.
  if (until === null || until === Infinity) return null;
  const left = await leftOf(db, base, other);
  const states = optionsOf(plan).map((_o, bounds) => left.states.find((s) => s.bounds === bounds && s.frame <= until));
  const found = states.flatMap((s) => s ?? []);
  if (found.length < states.length) return null;
  const frame = Math.min(...found.map((s) => s.frame));
  const { firstFrame, preRoll } = plan.options;
  const frames = left.frames.filter((f) => f.frame <= frame);
  return frames.length === frame - (firstFrame - preRoll) + 1 ? { base, frame, frames, states: found } : null;
}

/**
 * Before a solve's first frame: frames that another run of its shot computed, and that would come out the same, become its own with the state after them, so that it
 * goes on from there. Files are linked: they take no room twice. Returns those frames; null: there are none.
 */
export async function takeOver(db: Database, row: RunRow, plan: Plan): Promise<readonly RunFrameRecord[] | null> {
  const { runs, frames, files, states } = tables;
  const others = await db
    .select()
    .from(runs)
    .where(
      and(
        eq(runs.shotId, row.shotId),
        eq(runs.kind, row.kind),
        eq(runs.rung, row.rung),
        ne(runs.id, row.id),
        isNull(runs.freedAt),
        inArray(runs.state, ['done', 'cancelled', 'interrupted', 'failed']),
      ),
    )
    .orderBy(desc(runs.number));
  let best: Part | null = null;
  for (const base of others) {
    const part = await partOf(db, plan, base);
    if (part && part.frame > (best?.frame ?? -Infinity)) best = part;
  }
  if (!best) return null;
  const { base, frame } = best;
  await linkFiles(
    base.folder,
    row.folder,
    [...best.frames.flatMap((f) => f.files), ...best.states].map((f) => f.file),
  );
  // All of these are whole: that was looked at. What was not computed here took no time here.
  await db.batch([
    db.run(sql`insert into ${frames} (runId, frame, inRange, stored, bytes, checksum, seconds, memoryBytes, report)
      select ${row.id}, frame, inRange, stored, bytes, checksum, 0, memoryBytes, report from ${frames}
      where runId = ${base.id} and frame <= ${frame}`),
    db.run(sql`insert into ${files} (runId, frame, path, bytes, checksum)
      select ${row.id}, frame, path, bytes, checksum from ${files} where runId = ${base.id} and frame <= ${frame}`),
    ...best.states.map(({ bounds, frame: after, file, bytes, checksum }) =>
      db.insert(states).values({ runId: row.id, bounds, frame: after, path: file, bytes, checksum }),
    ),
    db
      .update(runs)
      .set({ notes: `Frames up to ${String(frame)} are those of run ${String(base.number)}.` })
      .where(and(eq(runs.id, row.id), eq(runs.notes, ''))),
  ]);
  return best.frames;
}
