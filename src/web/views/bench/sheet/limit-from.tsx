import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { type ReactElement, useState } from 'react';
import type { Box3 } from '#core/geometry';
import { withValue, defaultLimit, limitAround, limitOfView } from '#core/shot';
import { say, useSheet, useSolve } from '#web/state';
import { useColours } from '#web/ui';

interface FromMenuProps {
  readonly children: string;
  readonly onTake: (title: string, box: Box3) => void;
  /** For when there is nothing to take it from. */
  readonly empty?: { readonly title: string; readonly box: () => Box3 };
}

/** A box around an item, wherever it goes, or of what a camera sees. */
export function BoxFrom({ children, onTake, empty }: FromMenuProps): ReactElement | null {
  const c = useColours();
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const present = settings.bounds.limit ?? defaultLimit(settings);
  const items = (['sources', 'solids'] as const).flatMap((group) =>
    settings[group].map((item, index) => ({ title: item.name, box: () => limitAround(fields, settings, group, index) })),
  );
  const cameras = fields.cameras.map((camera) => ({
    title: `What ${camera.name} sees`,
    box: () => limitOfView(settings, camera, present),
  }));
  const all: readonly { readonly title: string; readonly box: () => Box3 | null }[] = [...items, ...cameras, ...(empty ? [empty] : [])];
  if (all.length === 0) return null;
  return (
    <>
      <Button
        size="small"
        color="inherit"
        variant="outlined"
        aria-haspopup="menu"
        onClick={(e) => setAnchor(e.currentTarget)}
        sx={{ borderColor: c.line, mt: 1 }}
      >
        {children}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {all.map(({ title, box }, n) => (
          <MenuItem
            key={n}
            dense
            onClick={() => {
              setAnchor(null);
              const found = box();
              if (found) onTake(title, found);
            }}
          >
            {title}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** Takes the limit box from an item or a camera. */
export function LimitFrom(): ReactElement {
  const edit = useSheet((s) => s.editSolve);
  return (
    <BoxFrom
      onTake={(title, box) => {
        if (edit((s) => withValue(s, ['bounds', 'limit'], { min: [...box.min], max: [...box.max] })))
          say('info', `Limit box from: ${title}.`);
      }}
    >
      Take the limit box from…
    </BoxFrom>
  );
}
