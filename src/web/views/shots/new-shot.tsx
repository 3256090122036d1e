import Button from '@mui/material/Button';
import { type ReactElement, Suspense, lazy, useState } from 'react';
import type { ShotRowDto } from '#protocol';
import { useCommands } from '#web/commands';
import { Icon } from '#web/ui';

const NewShotDialog = lazy(() => import('./new-shot-dialog').then((m) => ({ default: m.NewShotDialog })));

/** Starts a shot: blank, or with everything that another one's sheets hold. */
export function NewShotButton({ shots }: { shots: readonly ShotRowDto[] }): ReactElement {
  const [open, setOpen] = useState(false);
  useCommands([{ id: 'new-shot', title: 'New shot', keys: 'n', run: () => setOpen(true) }]);
  return (
    <>
      <Button
        variant="outlined"
        color="inherit"
        startIcon={<Icon name="add" size={15} />}
        onClick={() => setOpen(true)}
        sx={{ borderColor: 'divider' }}
      >
        New shot
      </Button>
      {open && (
        <Suspense fallback={null}>
          <NewShotDialog shots={shots} onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </>
  );
}
