import Button from '@mui/material/Button';
import Divider from '@mui/material/Divider';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { type ReactElement, useState } from 'react';
import { useCommands } from '#web/commands';
import { Icon, NameDialog, useColours } from '#web/ui';
import { ASPECTS, type CameraControls, isAspect, useCameras } from './cameras';

/** Saved cameras, framing, and a still of what is seen. */
export function CameraMenu({ controls }: { controls: CameraControls }): ReactElement {
  const c = useColours();
  const { cameras, current, look, frameAll, save, setAspect, remove, still } = useCameras(controls);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [naming, setNaming] = useState(false);
  useCommands([
    { id: 'still', title: 'Still of the view as PNG', keys: null, run: () => void still() },
    { id: 'camera-save', title: 'Save this view as a camera', keys: null, run: () => setNaming(true) },
    { id: 'frame-all', title: 'Look at the whole limit box', keys: null, run: frameAll },
  ]);
  /** Closes the menu and does it. */
  const then = (run: () => void) => (): void => {
    setMenu(null);
    run();
  };
  return (
    <>
      <Button
        color="inherit"
        size="small"
        aria-haspopup="menu"
        onClick={(e) => setMenu(e.currentTarget)}
        startIcon={<Icon name="camera" size={15} />}
        sx={{ fontWeight: 500 }}
      >
        {current?.name ?? 'Camera'}
      </Button>
      <Menu open={menu !== null} anchorEl={menu} onClose={() => setMenu(null)}>
        <MenuItem onClick={then(frameAll)}>Frame all</MenuItem>
        {cameras.map((k) => (
          <MenuItem key={k.name} selected={k === current} onClick={then(() => look(k))} sx={{ gap: 1, pr: 1 }}>
            {k.name}
            <span className="mono" style={{ color: c.dim, marginLeft: 'auto' }}>
              {ASPECTS.find((a) => isAspect(k, a[1]))?.[0] ?? k.aspect.toFixed(2)}
            </span>
          </MenuItem>
        ))}
        <MenuItem onClick={then(() => setNaming(true))}>Save this view as a camera…</MenuItem>
        {current && [
          <Divider key="aspects" />,
          ...ASPECTS.map(([title, aspect]) => (
            <MenuItem key={title} selected={isAspect(current, aspect)} onClick={then(() => setAspect(aspect))}>
              Aspect {title}
            </MenuItem>
          )),
          <MenuItem key="remove" onClick={then(remove)}>
            Remove {current.name}
          </MenuItem>,
        ]}
        <Divider />
        <MenuItem onClick={then(() => void still())}>Still of the view as PNG</MenuItem>
      </Menu>
      {naming && (
        <NameDialog
          title="Save this view as a camera"
          initial={`Camera ${String(cameras.length + 1)}`}
          action="Save"
          onSave={save}
          onClose={() => setNaming(false)}
        />
      )}
    </>
  );
}
