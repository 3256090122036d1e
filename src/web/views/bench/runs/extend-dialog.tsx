import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import type { Range } from '#core/cost';
import { formatBytes, formatRange, formatSeconds } from '#core/units';
import { api, sayError } from '#web/state';
import { useColours } from '#web/ui';

interface ExtendDialogProps {
  readonly runId: string;
  readonly number: number;
  readonly onClose: () => void;
}

/** Shows the price of the frames after a run's last one, and the budgets that they would break; a press starts them. */
export function ExtendDialog({ runId, number, onClose }: ExtendDialogProps): ReactElement {
  const c = useColours();
  const asked = useQuery({ queryKey: ['longer', runId], queryFn: () => api.longer(runId), gcTime: 0, staleTime: 0 });
  const more = asked.data;
  const row = (name: string, range: Range | null, show: (v: number) => string): ReactElement => (
    <>
      <span>{name}</span>
      <span className="mono">{range ? formatRange(range.low, range.high, show) : 'not known yet'}</span>
    </>
  );
  const start = (): void => {
    onClose();
    void api.goOn(runId, { longer: true, overBudget: more?.breaks != null }).catch(sayError);
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <DialogTitle sx={{ fontSize: 16 }}>
        {more ? `Extend run ${String(number)} to frame ${String(more.lastFrame)}?` : `Extend run ${String(number)}?`}
      </DialogTitle>
      <DialogContent>
        {asked.isPending && <Box sx={{ color: c.dim }}>Predicting time, disk and memory …</Box>}
        {asked.isError && <Box role="alert">{asked.error.message}</Box>}
        {more === null && <Box>It already ends with its shot and its inputs.</Box>}
        {more && (
          <>
            <Box sx={{ color: c.dim, mb: 1 }}>
              {more.frames} {more.frames === 1 ? 'frame is' : 'frames are'} computed; the others stay as they are.
            </Box>
            <Box sx={{ display: 'grid', gridTemplateColumns: 'auto 1fr', columnGap: 2, rowGap: 0.5 }}>
              {row('Time', more.time, formatSeconds)}
              {row('Disk', more.disk, formatBytes)}
              {row('Memory', more.memory, formatBytes)}
            </Box>
            {more.breaks !== null && (
              <Box role="alert" sx={{ color: c.warning, mt: 1.5 }}>
                {more.breaks}
              </Box>
            )}
          </>
        )}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" disabled={!more} onClick={start}>
          {more?.breaks ? 'Extend anyway' : 'Extend'}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
