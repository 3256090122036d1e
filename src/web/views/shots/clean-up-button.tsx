import Button from '@mui/material/Button';
import { type ReactElement, Suspense, lazy, useState } from 'react';
import type { ShotRowDto } from '#protocol';
import { useCommands } from '#web/commands';
import { useFreeing } from '#web/freeing';
import { Icon } from '#web/ui';

const CleanUp = lazy(() => import('./clean-up').then((m) => ({ default: m.CleanUp })));

/** Opens the list of all caches, least needed first. */
export function CleanUpButton({ shots }: { shots: readonly ShotRowDto[] }): ReactElement {
  const [open, setOpen] = useState(false);
  const freeing = useFreeing();
  useCommands([{ id: 'clean-up', title: 'Clean up caches', keys: null, run: () => setOpen(true) }]);
  return (
    <>
      <Button
        variant="outlined"
        color="inherit"
        startIcon={<Icon name="free" size={15} />}
        onClick={() => setOpen(true)}
        sx={{ borderColor: 'divider' }}
      >
        Clean up
      </Button>
      {open && (
        <Suspense fallback={null}>
          <CleanUp shots={shots} onFree={freeing.free} onClose={() => setOpen(false)} />
        </Suspense>
      )}
      {freeing.dialog}
    </>
  );
}
