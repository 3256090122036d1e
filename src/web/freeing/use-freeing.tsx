import { type ReactElement, useState } from 'react';
import { rungTitle } from '#core/shot';
import { formatBytes } from '#core/units';
import type { RunSummaryDto } from '#protocol';
import { ApiError, api, say, sayError } from '#web/state';
import { SureDialog } from '#web/ui';

type Run = Pick<RunSummaryDto, 'id' | 'number' | 'bytes' | 'approved'> & { readonly rung: RunSummaryDto['rung'] | 'sketch' };

interface Refused {
  readonly run: Run;
  readonly why: string;
  /** Another run reads it: it can be freed when that is wanted for sure. */
  readonly read: boolean;
}

/** Brings back every run that can be brought back, and says which could not. */
async function restoreAll(runs: readonly Run[]): Promise<void> {
  const failed: string[] = [];
  for (const run of runs)
    await api.restore(run.id).catch((error: unknown) => {
      failed.push(`Run ${String(run.number)}: ${error instanceof Error ? error.message : String(error)}`);
    });
  if (failed.length > 0) say('error', failed.join('\n'));
}

/** Frees every run that can be freed, with a way back, and returns the refusals. `sure`: approved runs too, and inputs of other runs. */
async function freeAll(runs: readonly Run[], sure: boolean): Promise<Refused[]> {
  const freed: Run[] = [];
  const refused: Refused[] = [];
  // A run has a higher number than its inputs: freed before them, it keeps none of them.
  for (const run of [...runs].sort((a, b) => b.number - a.number))
    await api.free(run.id, sure).then(
      () => freed.push(run),
      (error: unknown) => {
        const read = error instanceof ApiError && error.data.fields['reason'] === 'read';
        refused.push({ run, why: error instanceof Error ? error.message : String(error), read });
      },
    );
  // The dialog that follows asks about inputs of other runs.
  const kept = refused.filter((r) => !r.read).map((r) => `Run ${String(r.run.number)} is not: ${r.why}`);
  if (freed.length > 0) {
    const bytes = formatBytes(freed.reduce((n, r) => n + r.bytes, 0));
    const [first] = freed;
    const text =
      freed.length === 1 ? `Run ${String(first?.number)} is freed: ${bytes}.` : `${String(freed.length)} runs are freed: ${bytes}.`;
    say(kept.length > 0 ? 'warning' : 'info', [text, ...kept].join('\n'), {
      title: 'Undo',
      run: () => void restoreAll(freed).catch(sayError),
    });
  } else if (kept.length > 0) say('error', refused.map((r) => r.why).join('\n'));
  return refused;
}

/** Frees caches, with a way back; approved ones only after asking once more. The dialog is to be shown by who frees. */
export function useFreeing(): { readonly free: (runs: readonly Run[]) => void; readonly dialog: ReactElement | null } {
  const [asking, setAsking] = useState<{ readonly runs: readonly Run[]; readonly why: string | null } | null>(null);
  const approved = (asking?.runs ?? []).filter((r) => r.approved);
  return {
    free: (runs) => {
      if (runs.some((r) => r.approved)) {
        setAsking({ runs, why: null });
        return;
      }
      freeAll(runs, false)
        .then((refused) => {
          // Other runs read them: that is asked about too.
          const read = refused.filter((r) => r.read);
          if (read.length > 0) setAsking({ runs: read.map((r) => r.run), why: read.map((r) => r.why).join(' ') });
        })
        .catch(sayError);
    },
    dialog: asking && (
      <SureDialog
        title={
          asking.why !== null
            ? asking.runs.length === 1
              ? 'Another run reads it'
              : 'Other runs read them'
            : approved.length === 1
              ? 'This run is approved'
              : 'Some runs are approved'
        }
        action="Free anyway"
        onSure={() => void freeAll(asking.runs, true).catch(sayError)}
        onClose={() => setAsking(null)}
      >
        {asking.why ?? (
          <>
            {approved.map((r) => `${r.rung === 'sketch' ? 'Sketch' : rungTitle[r.rung]} · run ${String(r.number)}`).join(', ')}:{' '}
            {formatBytes(approved.reduce((n, r) => n + r.bytes, 0))} that somebody wanted to keep.
          </>
        )}{' '}
        A freed cache can be brought back until its space is needed.
      </SureDialog>
    ),
  };
}
