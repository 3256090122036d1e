import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { type ReactElement, type ReactNode, useState } from 'react';

interface NameDialogProps {
  readonly title: string;
  readonly label?: string;
  readonly initial: string;
  readonly action: string;
  readonly children?: ReactNode;
  /** Refuses by throwing: what it says is shown under the field. */
  readonly onSave: (name: string) => Promise<void> | void;
  readonly onClose: () => void;
}

/** Asks for one name. */
export function NameDialog({ title, label = 'Name', initial, action, children, onSave, onClose }: NameDialogProps): ReactElement {
  const [name, setName] = useState(initial);
  const [error, setError] = useState<string | null>(null);
  const save = async (): Promise<void> => {
    if (name.trim() === '') return;
    try {
      await onSave(name.trim());
      onClose();
    } catch (e) {
      setError(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <DialogTitle sx={{ fontSize: 16 }}>{title}</DialogTitle>
      <DialogContent>
        <TextField
          autoFocus
          fullWidth
          margin="dense"
          label={label}
          value={name}
          error={error !== null}
          helperText={error ?? ' '}
          slotProps={{ htmlInput: { maxLength: 80 } }}
          onChange={(e) => {
            setName(e.target.value);
            setError(null);
          }}
          onKeyDown={(e) => {
            if (e.key === 'Enter') void save();
          }}
        />
        {children}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" disabled={name.trim() === ''} onClick={() => void save()}>
          {action}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
