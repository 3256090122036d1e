import { and, eq, sql } from 'drizzle-orm';
import type { Prediction, Range } from '#core/cost';
import type { Rates } from '#core/pass';
import type { FOLLOWERS } from '#core/passes';
import { type FollowerPlan, predictPass } from '#core/passes';
import type { FollowerKind } from '#core/shot';
import { type Database, tables } from '#server/db';
import { codeVersion } from '#server/engine';

export type PassRates = Readonly<Record<FollowerKind, Rates | null>>;

/** What passes cost a core on this machine, by kind: over all frames that this version of the code computed; null: none yet. */
export async function passRates(db: Database): Promise<PassRates> {
  const { frames, runs } = tables;
  const total = (of: string) => sql<number>`coalesce(sum(json_extract(${frames.report}, ${of})), 0)`.mapWith(Number);
  const rows = await db
    .select({
      kind: runs.kind,
      elements: total('$.elements'),
      kept: total('$.kept'),
      seconds: sql<number>`sum(${frames.seconds})`.mapWith(Number),
      bytes: sql<number>`sum(${frames.bytes})`.mapWith(Number),
    })
    .from(frames)
    .innerJoin(runs, and(eq(runs.id, frames.runId), eq(runs.codeVersion, codeVersion)))
    .where(sql`${runs.kind} <> 'gas'`)
    .groupBy(runs.kind);
  const rateOf = (kind: FollowerKind): Rates | null => {
    const row = rows.find((r) => r.kind === kind);
    if (!row || !(row.elements > 0)) return null;
    return { secondsPerElement: row.seconds / row.elements, bytesPerKept: row.kept > 0 ? row.bytes / row.kept : 0 };
  };
  return {
    resample: rateOf('resample'),
    detail: rateOf('detail'),
    held: rateOf('held'),
    fed: rateOf('fed'),
    retime: rateOf('retime'),
    particles: rateOf('particles'),
    refill: rateOf('refill'),
    stills: rateOf('stills'),
  } satisfies Record<keyof typeof FOLLOWERS, unknown>;
}

/** Measured on this machine, or only known from another: within so much, nine times of ten. */
const spread = (likely: number, measured: boolean): Range => {
  const factor = measured ? 1.4 : 3;
  return { low: likely / factor, likely, high: likely * factor };
};

/** What a pass will cost, from what each frame of its input, and of what it reads beside, has. */
export function passPrediction(
  plan: FollowerPlan,
  input: ReadonlyMap<number, number>,
  beside: ReadonlyMap<number, number>,
  rates: PassRates,
  threads: number,
): Prediction {
  const at = (elements: ReadonlyMap<number, number>) => (frame: number) => elements.get(frame) ?? 0;
  const p = predictPass(plan, at(input), rates[plan.pass], threads, at(beside));
  const most = Math.max(0, ...p.gives.values());
  return {
    voxels: spread(most, p.measured),
    memory: spread(p.memoryBytes, false),
    disk: spread(p.bytes, p.measured),
    time: spread(p.seconds, p.measured),
    basis: p.measured ? 'relative' : 'settings',
    from: p.measured ? 'passes of its kind on this machine' : 'its settings',
  };
}
