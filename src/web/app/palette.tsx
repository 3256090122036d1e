import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import InputBase from '@mui/material/InputBase';
import MenuItem from '@mui/material/MenuItem';
import { type ReactElement, useState } from 'react';
import { commands } from '#web/commands';
import { useColours } from '#web/ui';

interface PaletteProps {
  readonly mode: 'closed' | 'commands' | 'keys';
  readonly onClose: () => void;
}

const shown = (keys: string): string => (keys === ' ' ? 'Space' : keys.replace(/\b([a-z])\b/g, (l) => l.toUpperCase()));

/** Every command, found by typing; the same list says all keys. */
export function Palette({ mode, onClose }: PaletteProps): ReactElement {
  const c = useColours();
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const list = commands.all().filter((k) => k.title.toLowerCase().includes(text.toLowerCase()) && (mode === 'commands' || k.keys !== null));
  const run = (n: number): void => {
    onClose();
    setText('');
    list[n]?.run();
  };
  return (
    <Dialog
      open={mode !== 'closed'}
      onClose={onClose}
      fullWidth
      maxWidth="xs"
      aria-label={mode === 'keys' ? 'All keys' : 'Command palette'}
    >
      <Box sx={{ borderBottom: `1px solid ${c.line}`, p: 1 }}>
        <InputBase
          autoFocus
          fullWidth
          placeholder={mode === 'keys' ? 'All keys' : 'What to do?'}
          value={text}
          inputProps={{ 'aria-label': 'Find a command' }}
          onChange={(e) => {
            setText(e.target.value);
            setAt(0);
          }}
          onKeyDown={(e) => {
            if (e.key === 'ArrowDown') setAt(Math.min(at + 1, list.length - 1));
            else if (e.key === 'ArrowUp') setAt(Math.max(at - 1, 0));
            else if (e.key === 'Enter') run(at);
          }}
        />
      </Box>
      <Box sx={{ maxHeight: 380, overflow: 'auto', py: 0.5 }} role="menu">
        {list.map((k, n) => (
          <MenuItem
            key={k.id}
            selected={n === at}
            onClick={() => {
              run(n);
            }}
            sx={{ justifyContent: 'space-between' }}
          >
            {k.title}
            {k.keys !== null && (
              <span className="mono" style={{ color: c.dim }}>
                {shown(k.keys)}
              </span>
            )}
          </MenuItem>
        ))}
      </Box>
    </Dialog>
  );
}
