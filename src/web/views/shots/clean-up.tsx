import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import { type ReactElement, useMemo, useState } from 'react';
import { rungTitle } from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import type { ShotRowDto } from '#protocol';
import type { useFreeing } from '#web/freeing';
import { Empty, useColours } from '#web/ui';
import { leastNeeded } from './least-needed';

interface CleanUpProps {
  readonly shots: readonly ShotRowDto[];
  readonly onFree: ReturnType<typeof useFreeing>['free'];
  readonly onClose: () => void;
}

/** What each cache takes, why it might be needed, and how long it takes to compute it again. */
export function CleanUp({ shots, onFree, onClose }: CleanUpProps): ReactElement {
  const c = useColours();
  const list = useMemo(() => leastNeeded(shots), [shots]);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const chosen = list.filter((f) => picked.has(f.run.id)).map((f) => f.run);
  const all = list.reduce((n, f) => n + f.run.bytes, 0);
  const toggle = (id: string): void => {
    const next = new Set(picked);
    if (!next.delete(id)) next.add(id);
    setPicked(next);
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md">
      <DialogTitle sx={{ fontSize: 16, pb: 0.5 }}>Clean up caches</DialogTitle>
      <DialogContent>
        <Box sx={{ color: c.dim, fontSize: 12.5, mb: 1 }}>
          {formatBytes(all)} in {list.length} {list.length === 1 ? 'run' : 'runs'}, the least needed first. What is freed can be brought
          back until its space is needed, or computed again.
        </Box>
        {list.length === 0 ? (
          <Empty title="No caches">Runs that are over are listed here.</Empty>
        ) : (
          <Table size="small" stickyHeader aria-label="Caches">
            <TableHead>
              <TableRow>
                <TableCell padding="checkbox" />
                <TableCell>Shot</TableCell>
                <TableCell>Run</TableCell>
                <TableCell>Needed?</TableCell>
                <TableCell align="right">Disk</TableCell>
                <TableCell align="right">To compute again</TableCell>
              </TableRow>
            </TableHead>
            <TableBody>
              {list.map(({ shot, run, why }) => {
                const title = `${rungTitle[run.rung]} · run ${String(run.number)}${run.kind === 'gas' ? '' : ` · ${run.passId}`}`;
                return (
                  <TableRow key={run.id} hover onClick={() => toggle(run.id)} sx={{ cursor: 'pointer' }}>
                    <TableCell padding="checkbox">
                      <Checkbox
                        size="small"
                        color="secondary"
                        checked={picked.has(run.id)}
                        slotProps={{ input: { 'aria-label': `${shot}, ${title}` } }}
                      />
                    </TableCell>
                    <TableCell>{shot}</TableCell>
                    <TableCell>{title}</TableCell>
                    <TableCell sx={{ color: run.approved ? c.fresh : c.dim }}>{why}</TableCell>
                    <TableCell align="right" className="mono">
                      {formatBytes(run.bytes)}
                    </TableCell>
                    <TableCell align="right" className="mono">
                      {formatSeconds(run.seconds)}
                    </TableCell>
                  </TableRow>
                );
              })}
            </TableBody>
          </Table>
        )}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          Close
        </Button>
        <Button
          variant="contained"
          disabled={chosen.length === 0}
          onClick={() => {
            onFree(chosen);
            setPicked(new Set());
          }}
        >
          {chosen.length === 0 ? 'Free' : `Free ${formatBytes(chosen.reduce((n, r) => n + r.bytes, 0))}`}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
