import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { format, formatDistanceStrict } from 'date-fns';
import { type ReactElement, useEffect, useState } from 'react';
import { rungTitle } from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import type { CacheState, RunSummaryDto, ShotRowDto } from '#protocol';
import { navigate } from '#web/state';
import { StateGlyph, useColours } from '#web/ui';
import { Thumbnail } from '#web/thumbnail';
import { COLUMNS } from './columns';
import { DeleteButton } from './delete-button';

const DAY = 86_400_000;
/** Runs shown in a row; the newest. */
const SHOWN = 3;

/** `3 minutes ago`; after a day the date, as it is where the page is looked at. */
const ago = (time: number, now: number): string =>
  now - time < 60_000 ? 'just now' : now - time < DAY ? `${formatDistanceStrict(time, now)} ago` : format(time, 'd MMM yyyy');

function runText(run: RunSummaryDto): string {
  if (run.state === 'queued') return 'waits';
  if (run.freed) return 'freed';
  const frames = `${String(run.framesDone)} of ${String(run.frameCount)}`;
  if (run.state === 'running') return `computing, ${frames}`;
  const lost = run.damagedFrames + run.missingFrames;
  if (lost > 0) return `${String(lost)} of ${String(run.framesDone)} frames damaged or missing`;
  if (run.state === 'done') return `${String(run.frameCount)} frames`;
  return `${run.state}, ${frames}`;
}

const glyphOf = (run: RunSummaryDto): CacheState => {
  if (run.freed || run.framesDone === 0) return run.state === 'failed' ? 'failed' : 'missing';
  if (run.missingFrames === run.framesDone) return 'missing';
  if (run.damagedFrames + run.missingFrames > 0) return 'damaged';
  if (run.state === 'failed') return 'failed';
  return run.state === 'done' ? 'fresh' : 'partial';
};

/** A shot in the list. */
export function ShotRow({ row, onDelete }: { row: Extract<ShotRowDto, { readable: true }>; onDelete: () => void }): ReactElement {
  const c = useColours();
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => {
      setNow(Date.now());
    }, 30_000);
    return () => {
      clearInterval(timer);
    };
  }, []);
  const newest = [...row.runs].reverse();
  const pictured = newest.find((r) => r.kind === 'gas' && !r.freed && r.framesDone > r.preRoll && r.missingFrames < r.framesDone) ?? null;
  const frame = pictured ? pictured.firstFrame + Math.min(pictured.framesDone, pictured.frameCount) - pictured.preRoll - 1 : null;
  // While it computes, a new picture every eighth frame is enough.
  const settled = frame !== null && pictured?.state === 'running' ? frame - ((frame - 1) % 8) : frame;
  const { fields } = row;
  const seconds = row.runs.reduce((n, r) => n + r.seconds, 0);
  const bytes = row.runs.reduce((n, r) => n + r.bytes, 0);
  const open = (): void => {
    navigate({ view: 'bench', shot: row.slug });
  };
  return (
    <Box
      role="row"
      sx={{
        display: 'grid',
        gridTemplateColumns: COLUMNS,
        gap: 2,
        px: 1.5,
        py: 1.25,
        alignItems: 'center',
        '&:not(:last-child)': { borderBottom: `1px solid ${c.line}` },
      }}
    >
      <Box role="cell" sx={{ lineHeight: 0 }}>
        <Thumbnail runId={pictured?.id ?? null} frame={settled} voxelSize={pictured?.voxelSize ?? 1} width={120} height={68} />
      </Box>
      <Box role="cell">
        <Box sx={{ fontWeight: 650, fontSize: 14.5 }}>{fields.name}</Box>
        <Box sx={{ color: c.dim, fontSize: 12 }}>
          {row.variants} {row.variants === 1 ? 'variant' : 'variants'} · frames {fields.firstFrame}–{fields.lastFrame}
          {fields.preRoll > 0 && `, pre-roll ${String(fields.preRoll)}`}
        </Box>
      </Box>
      <Box role="cell" sx={{ display: 'flex', flexDirection: 'column', gap: 0.4, fontSize: 12.5 }}>
        {newest.length === 0 && <span style={{ color: c.dim }}>nothing yet</span>}
        {newest.slice(0, SHOWN).map((run) => (
          <Box key={run.id} sx={{ display: 'flex', alignItems: 'center', gap: 0.75, whiteSpace: 'nowrap' }}>
            <StateGlyph state={glyphOf(run)} size={11} />
            <span>
              {rungTitle[run.rung]} · run {run.number}
              {run.kind === 'gas' ? '' : ` · ${run.passId}`}
            </span>
            <span className="mono" style={{ color: run.state === 'running' ? c.fresh : run.state === 'failed' ? c.failed : c.dim }}>
              {runText(run)}
            </span>
          </Box>
        ))}
        {newest.length > SHOWN && <span style={{ color: c.dim }}>and {newest.length - SHOWN} more</span>}
      </Box>
      <Figure value={formatSeconds(seconds)} budget={formatSeconds(fields.budgets.time)} part={seconds / fields.budgets.time} />
      <Figure value={formatBytes(bytes)} budget={formatBytes(fields.budgets.disk)} part={bytes / fields.budgets.disk} />
      <span role="cell" style={{ color: c.dim, fontSize: 12.5 }}>
        {ago(row.lastActivity, now)}
      </span>
      <Box role="cell" sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <Button variant="contained" onClick={open} aria-label={`Open ${fields.name}`}>
          Open
        </Button>
        <DeleteButton name={fields.name} onDelete={onDelete} />
      </Box>
    </Box>
  );
}

function Figure({ value, budget, part }: { value: string; budget: string; part: number }): ReactElement {
  const c = useColours();
  return (
    <Box role="cell">
      <Box className="mono" sx={{ color: part > 1 ? c.warning : c.text, fontSize: 12.5 }}>
        {value} <span style={{ color: c.dim }}>of {budget}</span>
      </Box>
      <Box sx={{ height: 4, mt: 0.5, borderRadius: 2, bgcolor: c.page, border: `1px solid ${c.line}` }}>
        <Box sx={{ height: '100%', width: `${String(Math.min(100, part * 100))}%`, bgcolor: part > 1 ? c.warning : c.fresh }} />
      </Box>
    </Box>
  );
}
