import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { type ReactElement, useState } from 'react';
import type { VariantDto } from '#protocol';
import { ApiError, api } from '#web/state';

export function RenameDialog({ variant, onClose }: { variant: VariantDto; onClose: () => void }): ReactElement {
  const [name, setName] = useState(variant.name);
  const [error, setError] = useState<string | null>(null);
  const save = async (): Promise<void> => {
    try {
      await api.rename(variant.id, name);
      onClose();
    } catch (e) {
      setError(e instanceof ApiError ? e.message : String(e));
    }
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <DialogTitle sx={{ fontSize: 16 }}>Rename the variant</DialogTitle>
      <DialogContent>
        <TextField
          autoFocus
          fullWidth
          margin="dense"
          label="Name"
          value={name}
          error={error !== null}
          helperText={error ?? ' '}
          onChange={(e) => {
            setName(e.target.value);
            setError(null);
          }}
          onKeyDown={(e) => {
            if (e.key === 'Enter') void save();
          }}
        />
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          Leave it
        </Button>
        <Button variant="contained" disabled={name.trim() === ''} onClick={() => void save()}>
          Rename
        </Button>
      </DialogActions>
    </Dialog>
  );
}
