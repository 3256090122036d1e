import Box from '@mui/material/Box';
import visuallyHidden from '@mui/utils/visuallyHidden';
import { type ReactElement, useCallback, useDeferredValue, useMemo, useState } from 'react';
import type { Range } from '#core/cost';
import type { CachedRung, PassPrediction } from '#core/passes';
import { type PassSettings, SOLVE, inputsOf, resolvePlan, rungTitle } from '#core/shot';
import { formatCount, formatBytes, formatQuantity, formatRange, formatSeconds } from '#core/units';
import { type PassState, passPredictor, useSheet, useSolve, useStatus } from '#web/state';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { type TimeAt, TimeCurve } from '../costs/time-curve';
import { changePass } from './pass-edits';
import { useInputCosts } from './use-input-costs';

const BASIS = {
  'this pass': 'From earlier runs of this pass; the ranges hold nine of ten.',
  'its kind': 'From passes of its kind on this machine; the ranges hold nine of ten.',
  nothing: 'No pass of this kind was computed on this machine yet: it may take a third or three times as long.',
} as const satisfies Record<PassPrediction['from'], string>;

interface CostRow {
  readonly name: string;
  readonly time: Range | null;
  readonly disk: Range;
  readonly memory: Range;
  /** What else there is to say of it. */
  readonly note?: string;
}

const RUNGS = ['test', 'final'] as const;
const ranged = (r: Range, show: (v: number) => string): string => formatRange(r.low, r.high, show);

/** Time, disk and memory, one line each. */
function CostLines({ rows, label }: { rows: readonly CostRow[]; label: string }): ReactElement {
  const c = useColours();
  const cell = { textAlign: 'right', whiteSpace: 'nowrap' } as const;
  return (
    <Box
      role="table"
      aria-label={label}
      sx={{ display: 'grid', gridTemplateColumns: '1fr auto auto auto', columnGap: 1.5, rowGap: 0.25, fontSize: 12 }}
    >
      <Box role="row" sx={{ display: 'contents', color: c.dim, '& > span': cell }}>
        <span role="columnheader">
          <span style={visuallyHidden}>Run</span>
        </span>
        <span role="columnheader">Time</span>
        <span role="columnheader">Disk</span>
        <span role="columnheader">Memory</span>
      </Box>
      {rows.map((r) => (
        <Box key={r.name} sx={{ display: 'contents' }}>
          <Box role="row" sx={{ display: 'contents', '& > .mono': cell }}>
            <span role="rowheader">{r.name}</span>
            <span role="cell" className="mono">
              {r.time ? ranged(r.time, formatSeconds) : 'not known'}
            </span>
            <span role="cell" className="mono">
              {ranged(r.disk, formatBytes)}
            </span>
            <span role="cell" className="mono">
              {ranged(r.memory, formatBytes)}
            </span>
          </Box>
          {r.note !== undefined && <Box sx={{ gridColumn: '1 / -1', color: c.dim, mb: 0.25 }}>{r.note}</Box>}
        </Box>
      ))}
    </Box>
  );
}

/** Triangles of a skin's frames, the fewest and the most; null: what it reads is not known yet. */
function trianglesText(gives: ReadonlyMap<number, number>): string | null {
  const counts = [...gives.values()];
  if (counts.length === 0) return null;
  const [least, most] = [Math.min(...counts), Math.max(...counts)].map((n) => formatCount(Number(n.toPrecision(2))));
  return least === most ? `about ${least ?? ''} triangles a frame` : `${least ?? ''} to ${most ?? ''} triangles a frame`;
}

/** What a pass would cost at each rung, with what it reads; of one that makes a run finer also over its factor, and beside a solve that is as fine. */
export function PassCosts({ pass, entry }: { pass: PassState; entry: PassSettings }): ReactElement | null {
  const c = useColours();
  const before = useInputCosts(pass);
  const rows = RUNGS.flatMap((rung): CostRow[] => {
    const own = pass[rung];
    const first = before[rung].seconds;
    if (!own) return [];
    const note = first > 0.5 ? `after ${formatSeconds(first)} for what it reads` : 'what it reads is there';
    const triangles = entry.kind === 'surface' ? trianglesText(own.gives) : null;
    return [{ name: rungTitle[rung], ...own.ranges, note: triangles === null ? note : `${note}; ${triangles}` }];
  });
  if (rows.length === 0) return null;
  const from = (pass.final ?? pass.test)?.from ?? 'nothing';
  return (
    <Box sx={{ mt: 1.5, pt: 1, borderTop: `1px solid ${c.line}` }}>
      <Box sx={{ fontWeight: 600, fontSize: 12.5, mb: 0.5 }}>Predicted</Box>
      <div data-testid="pass-costs">
        <CostLines rows={rows} label="Predicted costs" />
      </div>
      <Box sx={{ color: c.dim, fontSize: 12, mt: 0.5 }}>{BASIS[from]}</Box>
      {(entry.kind === 'detail' || entry.kind === 'held') && (
        <>
          <FactorCurve entry={entry} />
          <CoarseOrFine pass={pass} entry={entry} />
        </>
      )}
    </Box>
  );
}

type Finer = Extract<PassSettings, { kind: 'detail' | 'held' }>;

/** The Final's time over the factor. */
function FactorCurve({ entry }: { entry: Finer }): ReactElement | null {
  const { shot, loads, passes, spent } = useBench();
  const { settings, fields, edit } = useSheet();
  const late = useDeferredValue(settings);
  const status = useStatus().data;
  const [dragged, setDragged] = useState<number | null>(null);
  const { factor } = entry.settings;
  const [anchor, setAnchor] = useState(factor);
  const least = entry.kind === 'detail' ? 1.5 : 1;
  const [from, to] = [Math.max(least, anchor / 2), Math.min(8, anchor * 2)];
  if ((factor < from || factor > to) && dragged === null) setAnchor(factor);
  const put = useCallback(
    (p: PassSettings, value: number): PassSettings =>
      p.id === entry.id && (p.kind === 'detail' || p.kind === 'held')
        ? ({ ...p, settings: { ...p.settings, factor: value } } as PassSettings)
        : p,
    [entry.id],
  );
  const timeAt = useMemo((): TimeAt => {
    if (!status) return () => null;
    const given = { shot, settings: late, fields, loads, threads: status.threads };
    const predictor = passPredictor(given, passes, entry.id);
    return (value) => predictor('final', (p) => put(p, value))?.ranges.time ?? null;
  }, [shot, late, fields, status, loads, passes, entry.id, put]);
  return (
    <TimeCurve
      about="The Final's time over factor"
      title="Factor"
      unit="none"
      value={factor}
      from={from}
      to={to}
      timeAt={timeAt}
      left={Math.max(0, fields.budgets.time - spent.seconds)}
      onDrag={setDragged}
      onPut={(value) => void edit((s) => changePass(s, entry.id, (p) => put(p, value)))}
    />
  );
}

const plus = (a: Range, b: Range): Range => ({ low: a.low + b.low, likely: a.likely + b.likely, high: a.high + b.high });
const larger = (a: Range, b: Range): Range => (a.likely > b.likely ? a : b);

/** What the coarse run and this pass cost together, beside a solve of the sheet that is as fine. */
function CoarseOrFine({ pass, entry }: { pass: PassState; entry: Finer }): ReactElement | null {
  const c = useColours();
  const { predictor, predicted, passes } = useBench();
  const solve = useSolve();
  const fields = useSheet((s) => s.fields);
  const size = pass.voxelSize.final;
  const [{ input } = { input: null }] = inputsOf(entry);
  const fine = useMemo(
    () => (size === null ? null : predictor.ofPlan(resolvePlan(fields, solve, 'final', size / solve.detail.voxelSize))),
    [predictor, fields, solve, size],
  );
  const own = pass.final;
  if (!own || !fine || !input || size === null) return null;
  const rung: CachedRung = input.rung === 'same' ? 'final' : input.rung;
  const there = input.run !== null || passes.find((p) => p.id === input.pass)?.fresh[rung] === true;
  const base = there || input.folder !== null ? null : input.pass === SOLVE ? predicted[rung] : null;
  const both: CostRow = {
    name: there ? entry.name : `${rungTitle[rung]} and ${entry.name}`,
    time: base ? base.time && plus(base.time, own.ranges.time) : own.ranges.time,
    disk: base ? plus(base.disk, own.ranges.disk) : own.ranges.disk,
    memory: base ? larger(base.memory, own.ranges.memory) : own.ranges.memory,
    ...(there ? { note: 'what it reads is there' } : {}),
  };
  return (
    <Box sx={{ mt: 1.25 }} data-testid="coarse-or-fine">
      <Box sx={{ fontWeight: 600, fontSize: 12.5, mb: 0.5 }}>To voxels of {formatQuantity(size, 'metre', { digits: 2 })}</Box>
      <CostLines
        rows={[both, { name: 'Solved as fine', time: fine.time, disk: fine.disk, memory: fine.memory }]}
        label="Coarse and finer, or fine"
      />
      <Box sx={{ color: c.dim, fontSize: 12, mt: 0.5 }}>
        A solve as fine has eddies of its own, and is another plume than the one that was approved.
      </Box>
    </Box>
  );
}
