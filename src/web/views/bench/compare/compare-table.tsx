import Box from '@mui/material/Box';
import type { ReactElement } from 'react';
import type { Finding } from '#core/checks';
import { type Difference, differences, type SolveSettings, showDifference } from '#core/shot';
import { formatBytes, formatQuantity, formatSeconds } from '#core/units';
import { useColours } from '#web/ui';
import { isLiquidReport } from '#core/passes';
import { figuresOf } from './figures';
import type { Shown } from '../runs/shown-run';

export interface Compared {
  readonly shown: Shown;
  readonly title: string;
  readonly settings: SolveSettings | null;
  readonly findings: readonly Finding[];
}

const change = (a: number, b: number): string => {
  if (a === b) return '';
  const ratio = a / b;
  if (!Number.isFinite(ratio) || ratio <= 0) return '';
  return ratio > 1.995 || ratio < 0.5
    ? `× ${ratio.toPrecision(2)}`
    : `${ratio > 1 ? '+' : '−'}${String(Math.abs(Math.round((ratio - 1) * 100)))} %`;
};

/** What differs between two runs: settings, cost, the frame's figures, findings that only one has. */
export function CompareTable({ one, two, frame }: { one: Compared; two: Compared; frame: number | null }): ReactElement {
  const c = useColours();
  const [a, b] = [one.shown.run, two.shown.run];
  const set: readonly Difference[] = one.settings && two.settings ? differences(two.settings, one.settings) : [];
  const reports = [one, two].map((s) => s.shown.frames.find((f) => f.frame === frame)?.report ?? null);
  const head = (text: string): ReactElement => (
    <Box key={text} sx={{ gridColumn: '1 / -1', fontWeight: 650, mt: 1, '&:first-of-type': { mt: 0 } }}>
      {text}
    </Box>
  );
  const row = (name: string, x: number, y: number, show: (v: number) => string): ReactElement[] => [
    <span key={name} style={{ color: c.dim }}>
      {name}
    </span>,
    <span key={`${name} 1`} className="mono" style={{ textAlign: 'right' }}>
      {show(x)}
    </span>,
    <span key={`${name} 2`} className="mono" style={{ textAlign: 'right' }}>
      {show(y)}
    </span>,
    <span key={`${name} by`} className="mono" style={{ textAlign: 'right', color: c.dim }}>
      {change(x, y)}
    </span>,
  ];
  const only = (who: Compared, other: Compared): readonly Finding[] =>
    who.findings.filter((f) => !other.findings.some((o) => o.id === f.id));
  const [r1, r2] = reports;
  return (
    <Box
      data-testid="compare-table"
      tabIndex={0}
      aria-label="What differs"
      sx={{
        overflow: 'auto',
        minHeight: 0,
        px: 1.5,
        py: 1,
        fontSize: 12.5,
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr) auto auto auto',
        columnGap: 1.75,
        rowGap: 0.2,
        alignContent: 'start',
      }}
    >
      <span />
      <span style={{ textAlign: 'right', fontWeight: 600 }}>{one.title}</span>
      <span style={{ textAlign: 'right', fontWeight: 600 }}>{two.title}</span>
      <span />
      {head(`Settings, ${two.title} → ${one.title}`)}
      {a &&
        b &&
        a.rung !== b.rung &&
        row('Voxel size', a.plan.options.voxelSize, b.plan.options.voxelSize, (v) => formatQuantity(v, 'metre', { digits: 3 }))}
      <Box sx={{ gridColumn: '1 / -1', color: c.text }} className="mono">
        {set.map((d) => (
          <Box key={d.path}>{showDifference(d)}</Box>
        ))}
        {set.length === 0 && (
          <span style={{ color: c.dim }}>{one.settings && two.settings ? 'the same' : 'of a deleted variant: not known'}</span>
        )}
      </Box>
      {a && b && (
        <>
          {head('Cost')}
          {row('Time', a.seconds, b.seconds, formatSeconds)}
          {row('Memory', a.memoryBytes, b.memoryBytes, formatBytes)}
          {row('Disk', a.bytes, b.bytes, formatBytes)}
          {row('Frames', a.framesDone, b.framesDone, String)}
        </>
      )}
      {r1 && r2 && (
        <>
          {head(`Frame ${String(frame)}`)}
          {figuresOf(isLiquidReport(r1) ? 'liquid' : 'gas').map((f) => row(f.title, f.of(r1), f.of(r2), f.show))}
        </>
      )}
      {head('Findings')}
      <Box sx={{ gridColumn: '1 / -1' }}>
        {[
          { who: one, list: only(one, two) },
          { who: two, list: only(two, one) },
        ].map(({ who, list }) =>
          list.map((f) => (
            <Box key={who.title + f.id}>
              <span style={{ color: c.dim }}>only {who.title}:</span> {f.title}
            </Box>
          )),
        )}
        {only(one, two).length + only(two, one).length === 0 && <span style={{ color: c.dim }}>the same in both</span>}
      </Box>
    </Box>
  );
}
