import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import { SnackbarContent, SnackbarProvider, closeSnackbar, enqueueSnackbar } from 'notistack';
import { type ReactElement, useEffect } from 'react';
import { type Notice, useNotice } from '#web/state';

/** Shown at once; a fifth takes the oldest's place. */
const MOST = 4;
/** Milliseconds that one stays. An error is read twice. */
const STAYS = { error: 15_000, warning: 8000, info: 6000, success: 6000 } as const;

function show({ severity, text, action }: Notice): void {
  enqueueSnackbar(text, {
    autoHideDuration: STAYS[severity],
    // The same words with a button are another thing to take back.
    preventDuplicate: !action,
    content: (key) => (
      <SnackbarContent style={{ pointerEvents: 'auto' }}>
        <Alert
          severity={severity}
          variant="outlined"
          onClose={() => closeSnackbar(key)}
          sx={{ bgcolor: 'background.paper', whiteSpace: 'pre-wrap', maxWidth: 640 }}
          {...(action && {
            action: (
              <Button
                color="inherit"
                onClick={() => {
                  action.run();
                  closeSnackbar(key);
                }}
              >
                {action.title}
              </Button>
            ),
          })}
        >
          {text}
        </Alert>
      </SnackbarContent>
    ),
  });
}

/** What is said stands above what was said before: an error is not erased by what comes after it. */
export function Notices(): ReactElement {
  useEffect(() => {
    // Each as it is said: of two at once React would see the second only.
    const { notice } = useNotice.getState();
    if (notice) show(notice);
    return useNotice.subscribe((now, before) => {
      if (now.notice && now.notice !== before.notice) show(now.notice);
    });
  }, []);
  return <SnackbarProvider maxSnack={MOST} anchorOrigin={{ vertical: 'bottom', horizontal: 'center' }} />;
}
