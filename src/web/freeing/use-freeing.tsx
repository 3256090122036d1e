import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { type ReactElement, useState } from 'react';
import { rungTitle } from '#core/shot';
import { formatBytes } from '#core/units';
import type { RunSummaryDto } from '#protocol';
import { ApiError, api, say, sayError } from '#web/state';

type Run = Pick<RunSummaryDto, 'id' | 'number' | 'bytes' | 'approved'> & { readonly rung: RunSummaryDto['rung'] | 'sketch' };

/** `sure`: approved ones too, and those that others read. */
async function freeAll(runs: readonly Run[], sure: boolean): Promise<void> {
  for (const run of runs) await api.free(run.id, sure);
  const bytes = formatBytes(runs.reduce((n, r) => n + r.bytes, 0));
  const undo = async (): Promise<void> => {
    for (const run of runs) await api.restore(run.id);
  };
  const [first] = runs;
  say('info', runs.length === 1 ? `Run ${String(first?.number)} is freed: ${bytes}.` : `${String(runs.length)} runs are freed: ${bytes}.`, {
    title: 'Undo',
    run: () => void undo().catch(sayError),
  });
}

/** Frees caches, with a way back; approved ones only after asking once more. The dialog is to be shown by who frees. */
export function useFreeing(): { readonly free: (runs: readonly Run[]) => void; readonly dialog: ReactElement | null } {
  const [asking, setAsking] = useState<{ readonly runs: readonly Run[]; readonly why: string | null } | null>(null);
  const approved = (asking?.runs ?? []).filter((r) => r.approved);
  const close = (): void => setAsking(null);
  return {
    free: (runs) => {
      if (runs.some((r) => r.approved)) {
        setAsking({ runs, why: null });
        return;
      }
      freeAll(runs, false).catch((error: unknown) => {
        // Another run reads it: that is asked about too.
        if (error instanceof ApiError && error.data.fields['reason'] === 'read') setAsking({ runs, why: error.message });
        else sayError(error);
      });
    },
    dialog: asking && (
      <Dialog open onClose={close} fullWidth maxWidth="xs">
        <DialogTitle sx={{ fontSize: 16 }}>
          {asking.why !== null ? 'Another run reads it' : approved.length === 1 ? 'This run is approved' : 'Some runs are approved'}
        </DialogTitle>
        <DialogContent>
          {asking.why ?? (
            <>
              {approved.map((r) => `${r.rung === 'sketch' ? 'Sketch' : rungTitle[r.rung]} · run ${String(r.number)}`).join(', ')}:{' '}
              {formatBytes(approved.reduce((n, r) => n + r.bytes, 0))} that somebody wanted to keep.
            </>
          )}{' '}
          A freed cache can be brought back until its space is needed.
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={close}>
            Cancel
          </Button>
          <Button
            variant="contained"
            onClick={() => {
              close();
              void freeAll(asking.runs, true).catch(sayError);
            }}
          >
            Free anyway
          </Button>
        </DialogActions>
      </Dialog>
    ),
  };
}
