import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { ReactElement } from 'react';
import type { DetailedPrediction } from '#core/cost';
import { formatSeconds } from '#core/units';

import type { RunState } from '#protocol';
import { api, sayError } from '#web/state';
import { useColours } from '#web/ui';

interface LateFrameProps {
  readonly run: { readonly id: string; readonly state: RunState };
  /** All frames that the run is to have, in order. */
  readonly frames: readonly number[];
  readonly stored: ReadonlySet<number>;
  readonly wanted: number | null;
  /** `any`: frames need no others. `sequential`: each needs the one before. */
  readonly order: 'any' | 'sequential';
  /** Seconds until it has the frame; null: not known. */
  readonly seconds: number | null;
  /** Seconds until a Test has the frame; null: it has it, or nothing is known. */
  readonly byTest?: number | null;
  /** Pixels above the lower edge. */
  readonly bottom?: number;
}

/** Of a frame that is wanted while its run has not come so far: when it comes, and how it comes sooner. */
export function LateFrame({
  run,
  frames,
  stored,
  wanted,
  order,
  seconds,
  byTest = null,
  bottom = 12,
}: LateFrameProps): ReactElement | null {
  const c = useColours();
  const open = run.state === 'running' || run.state === 'queued';
  if (!open || wanted === null || stored.has(wanted) || !frames.includes(wanted)) return null;
  const before = frames.filter((f) => f < wanted && !stored.has(f)).length;
  const wait = seconds === null ? '' : `: about ${formatSeconds(seconds)}`;
  return (
    <Box
      role="status"
      data-testid="late-frame"
      sx={{
        position: 'absolute',
        right: 12,
        bottom,
        zIndex: 2,
        display: 'flex',
        alignItems: 'center',
        gap: 1.5,
        bgcolor: c.panel,
        border: `1px solid ${c.line}`,
        borderRadius: 1.5,
        px: 1.25,
        py: 0.75,
        fontSize: 12.5,
      }}
    >
      {order === 'any' ? (
        <>
          Frame {wanted} is not computed yet.
          <Button
            size="small"
            variant="outlined"
            color="inherit"
            onClick={() => {
              api.first(run.id, wanted).catch(sayError);
            }}
          >
            Compute it next
          </Button>
        </>
      ) : (
        <span>
          {before === 0 ? `Frame ${String(wanted)} is computed now` : `Frame ${String(wanted)} needs the ${String(before)} before it`}
          {wait}.{byTest !== null && ` A Test gets there in about ${formatSeconds(byTest)}.`}
        </span>
      )}
    </Box>
  );
}

/** Predicted seconds until a run has a frame; null: not known. */
export function secondsUntil(predicted: DetailedPrediction | null, frame: number | null): number | null {
  if (!predicted || frame === null) return null;
  let seconds = 0;
  for (const f of predicted.frames) {
    if (f.frame > frame) break;
    if (f.seconds === null) return null;
    seconds += f.seconds;
  }
  return seconds > 0 ? seconds : null;
}

/** The part of the seconds that a run still takes until it has a frame, by what its missing frames were predicted to take; null: not known. */
export function partUntil(
  left: number | null,
  predicted: ReadonlyMap<number, number>,
  stored: ReadonlySet<number>,
  frame: number | null,
): number | null {
  if (left === null || frame === null) return null;
  const missing = [...predicted].filter(([f]) => !stored.has(f));
  const sum = (list: typeof missing): number => list.reduce((n, [, seconds]) => n + seconds, 0);
  const all = sum(missing);
  return all > 0 ? (left * sum(missing.filter(([f]) => f <= frame))) / all : null;
}

/** The same by what its newest frames took. */
export function paceUntil(
  done: readonly { readonly report: { readonly totalSeconds: number } }[],
  frames: readonly number[],
  stored: ReadonlySet<number>,
  frame: number | null,
): number | null {
  const newest = done.slice(-5);
  if (newest.length === 0 || frame === null) return null;
  const each = newest.reduce((n, f) => n + f.report.totalSeconds, 0) / newest.length;
  return each * frames.filter((f) => f <= frame && !stored.has(f)).length;
}
