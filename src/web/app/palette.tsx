import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import DialogTitle from '@mui/material/DialogTitle';
import InputBase from '@mui/material/InputBase';
import visuallyHidden from '@mui/utils/visuallyHidden';
import { type KeyboardEvent, type ReactElement, useEffect, useMemo, useRef, useState } from 'react';
import { commands } from '#web/commands';
import { useColours } from '#web/ui';

interface PaletteProps {
  readonly mode: 'closed' | 'commands' | 'keys';
  readonly onClose: () => void;
}

const shown = (keys: string): string => (keys === ' ' ? 'Space' : keys.replace(/\b([a-z])\b/g, (l) => l.toUpperCase()));
const LIST = 'palette-list';
const optionId = (n: number): string => `palette-${String(n)}`;

/** Every command, found by typing; the same list says all keys. */
export function Palette({ mode, onClose }: PaletteProps): ReactElement {
  const c = useColours();
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const chosen = useRef<HTMLDivElement>(null);
  const list = useMemo(() => {
    if (mode === 'closed') return [];
    const wanted = text.trim().toLowerCase();
    const found = commands.all().filter((k) => k.title.toLowerCase().includes(wanted) && (mode === 'commands' || k.keys !== null));
    // What begins with the words comes first.
    return [
      ...found.filter((k) => k.title.toLowerCase().startsWith(wanted)),
      ...found.filter((k) => !k.title.toLowerCase().startsWith(wanted)),
    ];
  }, [mode, text]);
  useEffect(() => {
    chosen.current?.scrollIntoView({ block: 'nearest' });
  }, [at, list]);
  const close = (): void => {
    setText('');
    setAt(0);
    onClose();
  };
  const run = (n: number): void => {
    const command = list[n];
    if (!command) return;
    close();
    command.run();
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.key === 'ArrowDown') setAt(Math.min(at + 1, list.length - 1));
    else if (event.key === 'ArrowUp') setAt(Math.max(at - 1, 0));
    else if (event.key === 'Enter') run(at);
    else return;
    event.preventDefault();
  };
  return (
    <Dialog open={mode !== 'closed'} onClose={close} fullWidth maxWidth="xs" transitionDuration={80}>
      <DialogTitle sx={visuallyHidden}>{mode === 'keys' ? 'All keys' : 'Command palette'}</DialogTitle>
      <Box sx={{ borderBottom: `1px solid ${c.line}`, p: 1 }}>
        <InputBase
          autoFocus
          fullWidth
          placeholder={mode === 'keys' ? 'All keys' : 'Type a command'}
          value={text}
          inputProps={{
            'aria-label': 'Find a command',
            role: 'combobox',
            'aria-expanded': true,
            'aria-controls': LIST,
            'aria-activedescendant': list.length > 0 ? optionId(at) : undefined,
          }}
          onChange={(e) => {
            setText(e.target.value);
            setAt(0);
          }}
          onKeyDown={onKeyDown}
        />
      </Box>
      <Box id={LIST} role="listbox" aria-label="Commands" sx={{ maxHeight: 380, overflow: 'auto', py: 0.5 }}>
        {list.map((k, n) => (
          <Box
            key={k.id}
            id={optionId(n)}
            ref={n === at ? chosen : undefined}
            role="option"
            aria-selected={n === at}
            onClick={() => {
              run(n);
            }}
            sx={{
              display: 'flex',
              justifyContent: 'space-between',
              gap: 2,
              px: 2,
              py: 0.6,
              cursor: 'pointer',
              bgcolor: n === at ? c.raised : 'transparent',
              '&:hover': { bgcolor: c.raised },
            }}
          >
            {k.title}
            {k.keys !== null && (
              <span className="mono" style={{ color: c.dim, whiteSpace: 'nowrap' }}>
                {shown(k.keys)}
              </span>
            )}
          </Box>
        ))}
      </Box>
      {list.length === 0 && <Box sx={{ px: 2, pb: 1.5, color: c.dim }}>No matching commands</Box>}
    </Dialog>
  );
}
