import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import DialogTitle from '@mui/material/DialogTitle';
import visuallyHidden from '@mui/utils/visuallyHidden';
import { Command } from 'cmdk';
import type { ReactElement } from 'react';
import { commands } from '#web/commands';
import { useColours } from '#web/ui';

interface PaletteProps {
  readonly mode: 'closed' | 'commands' | 'keys';
  readonly onClose: () => void;
}

const shown = (keys: string): string => (keys === ' ' ? 'Space' : keys.replace(/\b([a-z])\b/g, (l) => l.toUpperCase()));

/** What holds the words as they are; what begins with them comes first. */
const rank = (title: string, words: string): number => {
  const at = title.toLowerCase().indexOf(words.trim().toLowerCase());
  return at < 0 ? 0 : at === 0 ? 1 : 0.5;
};

/** Every command, found by typing; the same list says all keys. */
export function Palette({ mode, onClose }: PaletteProps): ReactElement {
  const c = useColours();
  return (
    <Dialog open={mode !== 'closed'} onClose={onClose} fullWidth maxWidth="xs" transitionDuration={80}>
      <DialogTitle sx={visuallyHidden}>{mode === 'keys' ? 'All keys' : 'Command palette'}</DialogTitle>
      <Box
        component={Command}
        label="Find a command"
        filter={rank}
        sx={{
          '& [cmdk-input]': { font: 'inherit', color: 'inherit', bgcolor: 'transparent', border: 0, outline: 0, width: '100%', p: 1.5 },
          '& [cmdk-list]': { borderTop: `1px solid ${c.line}`, maxHeight: 380, overflow: 'auto', py: 0.5 },
          '& [cmdk-item]': { display: 'flex', justifyContent: 'space-between', gap: 2, px: 2, py: 0.6, cursor: 'pointer' },
          '& [cmdk-item][data-selected=true]': { bgcolor: c.line },
          '& [cmdk-empty]': { px: 2, py: 1, color: c.dim },
        }}
      >
        <Command.Input autoFocus placeholder={mode === 'keys' ? 'All keys' : 'Type a command'} aria-label="Find a command" />
        <Command.List label="Commands">
          {mode !== 'closed' && <Command.Empty>No matching commands</Command.Empty>}
          {mode !== 'closed' &&
            commands
              .all()
              .filter((k) => mode === 'commands' || k.keys !== null)
              .map((k) => (
                <Command.Item
                  key={k.id}
                  value={k.title}
                  onSelect={() => {
                    onClose();
                    k.run();
                  }}
                >
                  {k.title}
                  {k.keys !== null && (
                    <span className="mono" style={{ color: c.dim, whiteSpace: 'nowrap' }}>
                      {shown(k.keys)}
                    </span>
                  )}
                </Command.Item>
              ))}
        </Command.List>
      </Box>
    </Dialog>
  );
}
