import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import type { ReactElement, ReactNode } from 'react';
import { useForm } from 'react-hook-form';

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
  const form = useForm({ defaultValues: { name: initial } });
  const { isSubmitting, errors } = form.formState;
  const empty = form.watch('name').trim() === '';
  const save = form.handleSubmit(async ({ name }) => {
    if (empty) return;
    try {
      await onSave(name.trim());
      onClose();
    } catch (e) {
      form.setError('name', { message: e instanceof Error ? e.message : String(e) });
    }
  });
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <DialogTitle sx={{ fontSize: 16 }}>{title}</DialogTitle>
      <form onSubmit={(e) => void save(e)}>
        <DialogContent>
          <TextField
            autoFocus
            fullWidth
            margin="dense"
            label={label}
            error={errors.name !== undefined}
            helperText={errors.name?.message ?? ' '}
            slotProps={{ htmlInput: { maxLength: 80 } }}
            {...form.register('name', { onChange: () => form.clearErrors('name') })}
          />
          {children}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button variant="contained" type="submit" disabled={empty || isSubmitting}>
            {action}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
