import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { type ReactElement, useState } from 'react';
import type { Box3 } from '#core/geometry';
import { defaultLimit, limitAround, limitOfView } from '#core/shot';
import { say, useSheet } from '#web/state';
import { useColours } from '#web/ui';

/** Takes the limit box from an item, wherever it goes, or from what a camera sees. */
export function LimitFrom(): ReactElement | null {
  const c = useColours();
  const settings = useSheet((s) => s.settings);
  const fields = useSheet((s) => s.fields);
  const edit = useSheet((s) => s.edit);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const present = settings.bounds.limit ?? defaultLimit(settings);
  const items = (['sources', 'solids'] as const).flatMap((group) =>
    settings[group].map((item, index) => ({ title: item.name, box: () => limitAround(fields, settings, group, index) })),
  );
  const cameras = fields.cameras.map((camera) => ({
    title: `What ${camera.name} sees`,
    box: () => limitOfView(settings, camera, present),
  }));
  const all = [...items, ...cameras];
  if (all.length === 0) return null;
  const take = (title: string, box: Box3 | null): void => {
    setAnchor(null);
    if (!box) return;
    const limit = { min: [...box.min] as [number, number, number], max: [...box.max] as [number, number, number] };
    if (edit((s) => ({ ...s, bounds: { ...s.bounds, limit } }))) say('info', `Limit box from: ${title}.`);
  };
  return (
    <>
      <Button
        size="small"
        color="inherit"
        variant="outlined"
        aria-haspopup="menu"
        onClick={(e) => {
          setAnchor(e.currentTarget);
        }}
        sx={{ borderColor: c.line, mt: 1 }}
      >
        Take the limit box from…
      </Button>
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => {
          setAnchor(null);
        }}
      >
        {all.map(({ title, box }, n) => (
          <MenuItem
            key={n}
            dense
            onClick={() => {
              take(title, box());
            }}
          >
            {title}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
