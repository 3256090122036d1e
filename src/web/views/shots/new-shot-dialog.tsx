import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { type ReactElement, useState } from 'react';
import type { ShotRowDto } from '#protocol';
import { api, navigate, queryClient } from '#web/state';
import { NameDialog } from '#web/ui';

const BLANK = 'blank';

/** Asks for the name of a new shot, and what it begins with. */
export function NewShotDialog({ shots, onClose }: { shots: readonly ShotRowDto[]; onClose: () => void }): ReactElement {
  const [from, setFrom] = useState(BLANK);
  return (
    <NameDialog
      title="New shot"
      initial=""
      action="Create"
      onSave={async (name) => {
        const shot = await api.newShot(name, from === BLANK ? null : from);
        await queryClient.invalidateQueries({ queryKey: ['shots'] });
        navigate({ view: 'bench', shot: shot.slug, variant: null, run: null, frame: null });
      }}
      onClose={onClose}
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
  );
}
