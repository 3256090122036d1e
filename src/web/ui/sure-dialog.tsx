import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import type { ReactElement, ReactNode } from 'react';

interface SureDialogProps {
  readonly title: string;
  /** `Delete anyway` */
  readonly action: string;
  readonly children: ReactNode;
  readonly onSure: () => void;
  readonly onClose: () => void;
}

/** Asks once more before something is done that somebody may not want. */
export function SureDialog({ title, action, children, onSure, onClose }: SureDialogProps): ReactElement {
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <DialogTitle sx={{ fontSize: 16 }}>{title}</DialogTitle>
      <DialogContent>{children}</DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          Cancel
        </Button>
        <Button
          variant="contained"
          onClick={() => {
            onClose();
            onSure();
          }}
        >
          {action}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
