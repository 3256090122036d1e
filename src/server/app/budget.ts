import { and, eq, inArray } from 'drizzle-orm';
import { type Ahead, type Prediction, allAhead } from '#core/cost';
import { RuddleError } from '#core/errors';
import type { ShotFields } from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import { type Database, tables } from '#server/db';
import type { RunStore } from './runs';

/** Time and disk that the runs of a shot took, and that its unfinished runs will still take. */
interface Taken {
  readonly seconds: number;
  readonly bytes: number;
  readonly ahead: Ahead & { readonly runs: number };
}

async function takenIn(db: Database, runs: RunStore, shotId: string): Promise<Taken> {
  const of = (await runs.summaries()).get(shotId) ?? [];
  const waiting = await db
    .select({ id: tables.runs.id })
    .from(tables.runs)
    .where(and(eq(tables.runs.shotId, shotId), inArray(tables.runs.state, ['queued', 'running', 'paused'])));
  // One whose plan cannot be read will take nothing.
  const dtos = await Promise.all(waiting.map(({ id }) => runs.get(id).catch(() => null)));
  return {
    seconds: of.reduce((n, r) => n + r.seconds, 0),
    bytes: of.reduce((n, r) => n + r.bytes, 0),
    ahead: allAhead(dtos.filter((r) => r !== null)),
  };
}

/** Predicted cost of a run that is to be started. */
export type Wanted = Pick<Prediction, 'time' | 'disk' | 'memory'>;

/** Throws `over-budget` when the sum of the wanted runs does not fit beside the cost of the shot's runs, the rest of unfinished ones with it. */
export async function mayCost(
  db: Database,
  runs: RunStore,
  shot: { readonly id: string; readonly fields: ShotFields },
  wanted: readonly Wanted[],
): Promise<void> {
  const { budgets } = shot.fields;
  const taken = await takenIn(db, runs, shot.id);
  const sum = (pick: (p: Wanted) => number): number => wanted.reduce((n, p) => n + pick(p), 0);
  const others = taken.ahead.runs === 1 ? 'a run that is not over' : `${String(taken.ahead.runs)} runs that are not over`;
  const said = (name: string, need: number, was: number, ahead: number, budget: number, show: (v: number) => string): string | null => {
    // Asked this way round, NaN does not fit either.
    if (need <= budget - was - ahead) return null;
    const beside = [...(was > 0 ? [`${show(was)} are taken`] : []), ...(ahead > 0 ? [`${show(ahead)} go to ${others}`] : [])];
    return `${name} of ${show(budget)}: about ${show(need)} are needed${beside.length > 0 ? `, ${beside.join(', ')}` : ''}`;
  };
  const broken = [
    [
      'time',
      said(
        'time',
        sum((p) => p.time?.likely ?? 0),
        taken.seconds,
        taken.ahead.seconds,
        budgets.time,
        formatSeconds,
      ),
    ] as const,
    [
      'disk',
      said(
        'disk',
        sum((p) => p.disk.likely),
        taken.bytes,
        taken.ahead.bytes,
        budgets.disk,
        formatBytes,
      ),
    ] as const,
    ['memory', said('memory', Math.max(0, ...wanted.map((p) => p.memory.likely)), 0, 0, budgets.memory, formatBytes)] as const,
  ].filter(([, text]) => text !== null);
  if (broken.length === 0) return;
  const what = broken.map(([name]) => name);
  throw new RuddleError('over-budget', `It would break the shot's budget of ${broken.map(([, text]) => text).join('; of ')}.`, { what });
}
