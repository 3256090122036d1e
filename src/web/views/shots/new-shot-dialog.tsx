import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { type ReactElement, useState } from 'react';
import type { SolveKind } from '#core/shot';
import type { ShotRowDto } from '#protocol';
import { api, navigate, queryClient } from '#web/state';
import { NameDialog } from '#web/ui';

/** What a shot can begin with that is no copy. */
const BLANK: Readonly<Record<SolveKind, string>> = { gas: 'Empty shot: smoke, fire, dust', liquid: 'Empty shot: liquid' };
const isBlank = (from: string): from is SolveKind => from in BLANK;

/** Asks for the name of a new shot, and what it begins with. */
export function NewShotDialog({ shots, onClose }: { shots: readonly ShotRowDto[]; onClose: () => void }): ReactElement {
  const [from, setFrom] = useState<string>('gas');
  return (
    <NameDialog
      title="New shot"
      initial=""
      action="Create"
      onSave={async (name) => {
        const shot = isBlank(from) ? await api.newShot(name, null, from) : await api.newShot(name, from);
        await queryClient.invalidateQueries({ queryKey: ['shots'] });
        navigate({ view: 'bench', shot: shot.slug, variant: null, run: null, frame: null });
      }}
      onClose={onClose}
    >
      <TextField select fullWidth margin="dense" label="Begin with" value={from} onChange={(e) => setFrom(e.target.value)}>
        {Object.entries(BLANK).map(([kind, title]) => (
          <MenuItem key={kind} value={kind}>
            {title}
          </MenuItem>
        ))}
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
