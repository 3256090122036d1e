import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { ReactElement } from 'react';
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
