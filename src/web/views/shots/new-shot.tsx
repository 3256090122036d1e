import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { type ReactElement, useState } from 'react';
import type { ShotRowDto } from '#protocol';
import { useCommands } from '#web/commands';
import { api, navigate, queryClient } from '#web/state';
import { Icon, NameDialog } from '#web/ui';

const BLANK = 'blank';

/** Starts a shot: blank, or with everything that another one's sheets hold. */
export function NewShotButton({ shots }: { shots: readonly ShotRowDto[] }): ReactElement {
  const [open, setOpen] = useState(false);
  const [from, setFrom] = useState(BLANK);
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
        <NameDialog
          title="New shot"
          initial=""
          action="Create"
          onSave={async (name) => {
            const shot = await api.newShot(name, from === BLANK ? null : from);
            await queryClient.invalidateQueries({ queryKey: ['shots'] });
            navigate({ view: 'bench', shot: shot.slug, variant: null, run: null, frame: null });
          }}
          onClose={() => setOpen(false)}
        >
          <TextField select fullWidth margin="dense" label="Begin with" value={from} onChange={(e) => setFrom(e.target.value)}>
            <MenuItem value={BLANK}>Empty shot</MenuItem>
            {shots.map(
              (s) =>
                s.readable && (
                  <MenuItem key={s.id} value={s.id}>
                    a copy of {s.fields.name}, its drafts included
                  </MenuItem>
                ),
            )}
          </TextField>
        </NameDialog>
      )}
    </>
  );
}
