import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { type ReactElement, useCallback, useState } from 'react';
import { findAll } from '#core/checks';
import { SOLVE, resolvePlan, rungTitle } from '#core/shot';
import { formatBytes, formatRange, formatSeconds } from '#core/units';
import { ApiError, api, mainSketch, navigate, queryClient, say, useSheet, useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { clockTime } from './clock';
import { FindingItem } from '../findings/findings-drawer';

/** A Final that takes longer is asked about, seconds. */
const LONG = 1800;
type ServerRung = 'test' | 'final';

/** A start that the user is asked about. */
interface Asked {
  readonly rung: ServerRung;
  /** The server's reason to refuse; null: the page asks by itself. */
  readonly why: string | null;
}

export interface Starter {
  /** Starts a rung, or asks first when it would break a budget or take long. */
  readonly press: (rung: ServerRung) => void;
  readonly starting: boolean;
  readonly dialog: ReactElement | null;
}

export function useStarter(): Starter {
  const { variant, pass, predicted, spent } = useBench();
  const [starting, setStarting] = useState(false);
  const [asked, setAsked] = useState<Asked | null>(null);

  const start = useCallback(
    async (rung: ServerRung, overBudget: boolean): Promise<void> => {
      setStarting(true);
      setAsked(null);
      try {
        const { flush, freeze, frozen } = useSheet.getState();
        await flush();
        freeze(variant.id);
        const run = await api.start(variant.id, rung, { overBudget, pass: pass?.id ?? SOLVE }).catch((error: unknown) => {
          frozen(null);
          throw error;
        });
        frozen(run.variantId);
        // The variant that it made is opened when it is known here.
        if (run.variantId !== variant.id) await queryClient.invalidateQueries({ queryKey: ['shot'] });
        // The Sketch ends, its camera and frame stay.
        mainSketch().stop();
        navigate({ variant: run.variantId, run: run.id });
        say('success', `${rungTitle[rung]}${pass ? ` of ${pass.name}` : ''} started as run ${String(run.number)}.`);
      } catch (error) {
        if (error instanceof ApiError && error.tag === 'over-budget') setAsked({ rung, why: error.message });
        else say('error', error instanceof Error ? error.message : String(error));
      } finally {
        setStarting(false);
      }
    },
    [variant.id, pass],
  );

  const press = useCallback(
    (rung: ServerRung): void => {
      // Of a pass the server looks at what its solve would cost.
      const p = pass ? null : predicted[rung];
      const { budgets } = useSheet.getState().fields;
      const breaks =
        p !== null &&
        ((p.time?.likely ?? 0) > budgets.time - spent.seconds ||
          p.disk.likely > budgets.disk - spent.bytes ||
          p.memory.likely > budgets.memory);
      const long = rung === 'final' && (p?.time?.likely ?? 0) > LONG;
      if (breaks || long) setAsked({ rung, why: null });
      else void start(rung, false);
    },
    [predicted, spent, start, pass],
  );

  const dialog = asked && <StartDialog {...asked} onClose={() => setAsked(null)} onStart={() => void start(asked.rung, true)} />;
  return { press, starting, dialog };
}

/** What it will cost, what it would break, and what could be done instead. */
function StartDialog({ rung, why, onClose, onStart }: Asked & { onClose: () => void; onStart: () => void }): ReactElement {
  const c = useColours();
  const { pass, predicted, spent } = useBench();
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const p = pass ? null : predicted[rung];
  const own = pass?.[rung] ?? null;
  const found = findAll({ shot: fields, settings, plan: resolvePlan(fields, settings, rung), reports: [], prediction: p, spent }).filter(
    (f) => f.id.startsWith('budget'),
  );
  // What the server said reckons with the pass, and all that it reads.
  const breaks = pass || why !== null ? [] : found;
  const broken = why !== null || breaks.length > 0;
  const row = (name: string, value: string, note: string): ReactElement => (
    <>
      <span>{name}</span>
      <span className="mono">{value}</span>
      <span style={{ color: c.dim }}>{note}</span>
    </>
  );
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16 }}>
        {broken ? `This ${rungTitle[rung]}${pass ? ` of ${pass.name}` : ''} would break a budget` : `Start a long ${rungTitle[rung]}?`}
      </DialogTitle>
      <DialogContent>
        {own && (
          <Box sx={{ display: 'grid', gridTemplateColumns: 'auto auto 1fr', columnGap: 2, rowGap: 0.5, mb: 2 }}>
            {row('Time', formatSeconds(own.seconds), `of ${formatSeconds(fields.budgets.time)}; ${formatSeconds(spent.seconds)} are spent`)}
            {row('Disk', formatBytes(own.bytes), `of ${formatBytes(fields.budgets.disk)}; ${formatBytes(spent.bytes)} are taken`)}
          </Box>
        )}
        {p && (
          <Box sx={{ display: 'grid', gridTemplateColumns: 'auto auto 1fr', columnGap: 2, rowGap: 0.5, mb: 2 }}>
            {p.time &&
              row(
                'Time',
                formatSeconds(p.time.likely),
                `${formatRange(p.time.low, p.time.high, formatSeconds)}; done ${clockTime(p.time.likely)}`,
              )}
            {row('Disk', formatBytes(p.disk.likely), formatRange(p.disk.low, p.disk.high, formatBytes))}
            {row('Memory', formatBytes(p.memory.likely), formatRange(p.memory.low, p.memory.high, formatBytes))}
          </Box>
        )}
        {why !== null && <Box role="alert">{why}</Box>}
        {breaks.map((f) => (
          <FindingItem key={f.id} finding={f} plain />
        ))}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" onClick={onStart}>
          {broken ? 'Start anyway' : 'Start'}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
