import { and, asc, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import * as z from 'zod';
import {
  type AnyCostRun,
  type CostFrame,
  type CostRun,
  type LiquidCostFrame,
  liquidCostFrame,
  liquidCostFrameSchema,
  type Knowledge,
  type RecordEntry,
  costFrame,
  costFrameSchema,
  costRunsOf,
  foreseenFrames,
  knowledgeOf,
  measuredOf,
  predict,
  summaryOf,
  calibrationPlans,
} from '#core/cost';
import { type GasReport, type SolveReport, isLiquidReport, isSolvePlan } from '#core/passes';
import { type Plan, type SolveKind, isLiquidPlan } from '#core/shot';
import type { EvidenceDto } from '#protocol';
import { type Database, tables } from '#server/db';
import type { Foreseen } from './questions';

type RunRow = typeof tables.runs.$inferSelect;

/** Runs that the model is fitted to, and runs of a shot that predictions start from: the newest. */
const LEARN_FROM = 16;
const OF_SHOT = 10;
const SKETCHES = 6;
const OF_RECORD = 100;

/** Other passes have other costs: see core/passes. */
const ofSolve = inArray(tables.runs.kind, ['gas', 'liquid']);
const ofKind = (kind: SolveKind) => eq(tables.runs.kind, kind);

interface Machine {
  readonly threads: number;
  readonly codeVersion: string;
}

/** What this machine has learnt about costs; everything predicted comes from here. Rows that cannot be read are left out. */
export class Learning {
  #knowledge: Promise<Knowledge> | null = null;

  constructor(
    private readonly db: Database,
    private readonly machine: Machine,
  ) {}

  forget(): void {
    this.#knowledge = null;
  }

  /** Fitted anew after each run. What went wrong once is tried again. */
  knowledge(): Promise<Knowledge> {
    if (this.#knowledge) return this.#knowledge;
    const learning = this.#learn();
    this.#knowledge = learning;
    learning.catch(() => {
      if (this.#knowledge === learning) this.#knowledge = null;
    });
    return learning;
  }

  async #learn(): Promise<Knowledge> {
    const { threads, codeVersion } = this.machine;
    const newest = (kind: SolveKind): Promise<RunRow[]> =>
      this.db
        .select()
        .from(tables.runs)
        .where(
          and(ofKind(kind), inArray(tables.runs.state, ['done', 'cancelled', 'interrupted']), eq(tables.runs.codeVersion, codeVersion)),
        )
        .orderBy(desc(tables.runs.endedAt))
        .limit(LEARN_FROM);
    const rows = [...(await newest('gas')), ...(await newest('liquid'))];
    const calibrations = await this.db
      .select()
      .from(tables.calibrations)
      .where(and(eq(tables.calibrations.codeVersion, codeVersion), eq(tables.calibrations.threads, threads)));
    // One box alone says little, and that of a start on a busy machine: all of them, or none.
    const whole = calibrations.length >= calibrationPlans().length ? calibrations : [];
    const machine = whole.flatMap((c): CostRun[] =>
      c.frames === null || c.plan.problem !== null || isLiquidPlan(c.plan.value)
        ? []
        : [
            {
              id: `calibration-${String(c.id)}`,
              title: 'calibration',
              origin: 'calibration',
              threads: c.threads,
              plan: c.plan.value,
              frames: c.frames,
            },
          ],
    );
    const bare = knowledgeOf([...machine, ...(await this.#costRuns(rows))], threads);
    return { ...bare, record: await this.#record(bare.model?.reference ?? 0) };
  }

  /** What was predicted beside what came, of every run that ended by itself. */
  async #record(reference: number): Promise<RecordEntry[]> {
    const { runs, shots } = tables;
    const rows = await this.db
      .select({ id: runs.id, rung: runs.rung, number: runs.number, prediction: runs.prediction, shot: shots.fields })
      .from(runs)
      .innerJoin(shots, eq(shots.id, runs.shotId))
      .where(and(ofSolve, eq(runs.state, 'done'), isNotNull(runs.prediction)))
      .orderBy(desc(runs.endedAt))
      .limit(OF_RECORD);
    const frames = await this.#frames(rows.map((r) => r.id));
    return rows.flatMap(({ id, rung, number, prediction, shot }): RecordEntry[] => {
      const own = costFramesOf(frames.get(id) ?? []);
      if (!prediction || own.length === 0 || shot.problem !== null) return [];
      const title = `${shot.value.name}, ${rung === 'test' ? 'Test' : 'Final'} ${String(number)}`;
      return [{ run: id, title, prediction, measured: measuredOf(own, reference) }];
    });
  }

  async #frames(ids: readonly string[]): Promise<Map<string, KeptFrame[]>> {
    const found = new Map<string, KeptFrame[]>();
    if (ids.length === 0) return found;
    const rows = await this.db
      .select({ runId: tables.frames.runId, report: tables.frames.report, bytes: tables.frames.bytes })
      .from(tables.frames)
      .where(inArray(tables.frames.runId, [...ids]))
      .orderBy(asc(tables.frames.frame));
    for (const { runId, report, bytes } of rows) {
      if (!report) continue;
      const list = found.get(runId) ?? [];
      // Only runs of solves are asked for.
      list.push({ report: report as SolveReport, bytes });
      found.set(runId, list);
    }
    return found;
  }

  async #costRuns(rows: readonly RunRow[]): Promise<AnyCostRun[]> {
    const readable = rows.flatMap((row) => {
      const plan = row.plan.problem === null ? row.plan.value : null;
      return plan && isSolvePlan(plan) ? [{ row, plan }] : [];
    });
    const frames = await this.#frames(readable.map((r) => r.row.id));
    return readable.flatMap(({ row, plan }) => {
      const run = {
        id: row.id,
        title: `run ${String(row.number)}`,
        origin: 'server',
        threads: row.threads ?? this.machine.threads,
      } as const;
      return runsOfPlan(run, plan, frames.get(row.id) ?? []);
    });
  }

  async evidence(shotId: string): Promise<EvidenceDto> {
    const rows = await this.db
      .select()
      .from(tables.runs)
      .where(and(ofSolve, eq(tables.runs.shotId, shotId), inArray(tables.runs.state, ['done', 'cancelled', 'interrupted', 'failed'])))
      .orderBy(desc(tables.runs.number))
      .limit(OF_SHOT);
    const sketches = await this.db
      .select()
      .from(tables.sketches)
      .where(eq(tables.sketches.shotId, shotId))
      .orderBy(desc(tables.sketches.createdAt))
      .limit(SKETCHES);
    const runs = await this.#costRuns(rows);
    return {
      knowledge: await this.knowledge(),
      runs: [
        ...runs.filter((r) => r.frames.length > 0),
        ...sketches.flatMap((s): AnyCostRun[] => {
          if (s.plan.problem !== null) return [];
          const common = { id: s.key, title: 'a Sketch', origin: 'browser', threads: 1 } as const;
          const plan = s.plan.value;
          // Those of older versions lack what frames tell now.
          if (isLiquidPlan(plan)) {
            const frames = z.array(liquidCostFrameSchema).safeParse(s.frames);
            return frames.success ? [{ ...common, plan, frames: frames.data }] : [];
          }
          const frames = z.array(costFrameSchema).safeParse(s.frames);
          return frames.success ? [{ ...common, plan, frames: frames.data }] : [];
        }),
      ],
    };
  }

  async predict(shotId: string, plan: Plan): Promise<Foreseen> {
    const { knowledge, runs } = await this.evidence(shotId);
    const predicted = predict(plan, runs, knowledge);
    return { prediction: summaryOf(predicted), frames: foreseenFrames(predicted) };
  }
}

interface KeptFrame {
  readonly report: SolveReport;
  readonly bytes: number;
}

const liquidFramesOf = (frames: readonly KeptFrame[]): LiquidCostFrame[] =>
  frames.flatMap(({ report, bytes }) => (isLiquidReport(report) ? [liquidCostFrame(report, bytes)] : []));
const gasFramesOf = (frames: readonly KeptFrame[]): { report: GasReport; bytes: number }[] =>
  frames.flatMap(({ report, bytes }) => (isLiquidReport(report) ? [] : [{ report, bytes }]));

/** What the cost model reads of a run's frames, of whichever kind. */
function costFramesOf(frames: readonly KeptFrame[]): CostFrame[] | LiquidCostFrame[] {
  const liquid = liquidFramesOf(frames);
  return liquid.length > 0 ? liquid : gasFramesOf(frames).map((f) => costFrame(f.report, f.bytes));
}

const runsOfPlan = (run: Omit<CostRun, 'plan' | 'frames'>, plan: Plan, frames: readonly KeptFrame[]): AnyCostRun[] =>
  isLiquidPlan(plan) ? [{ ...run, plan, frames: liquidFramesOf(frames) }] : costRunsOf({ ...run, plan }, gasFramesOf(frames));
