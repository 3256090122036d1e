import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { type ReactElement, useEffect, useState } from 'react';
import type { CameraSettings } from '#core/shot';
import { commands } from '#web/commands';
import { say, useSheet } from '#web/state';
import { Icon, NameDialog, useColours } from '#web/ui';
import type { ViewportApi } from '#web/viewport';

const ASPECTS: readonly (readonly [string, number])[] = [
  ['16 : 9', 16 / 9],
  ['2.39 : 1', 2.39],
  ['1.85 : 1', 1.85],
  ['4 : 3', 4 / 3],
  ['1 : 1', 1],
  ['9 : 16', 9 / 16],
];

export interface CameraControls {
  readonly api: () => ViewportApi | null;
  /** The camera that is looked through; null: free. */
  readonly current: string | null;
  readonly choose: (name: string | null) => void;
  /** How a still's file is called. */
  readonly stillName: () => string;
}

function download(blob: Blob, name: string): void {
  const address = URL.createObjectURL(blob);
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  setTimeout(() => {
    URL.revokeObjectURL(address);
  }, 10_000);
}

/** Saved cameras, framing, and a still of what is seen. */
export function CameraMenu({ controls }: { controls: CameraControls }): ReactElement {
  const c = useColours();
  const fields = useSheet((s) => s.fields);
  const editSheet = useSheet((s) => s.editSheet);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [naming, setNaming] = useState(false);
  const current = fields.cameras.find((k) => k.name === controls.current) ?? null;

  const setCameras = (cameras: readonly CameraSettings[], title: string): boolean =>
    editSheet((s) => ({ ...s, fields: { ...s.fields, cameras: [...cameras] } }), title);
  const look = (camera: CameraSettings): void => {
    controls.api()?.setView(camera);
    controls.choose(camera.name);
  };
  const save = (name: string): void => {
    const view = controls.api()?.view();
    if (!view) return;
    if (fields.cameras.some((k) => k.name === name)) throw new Error(`There is a camera "${name}" already.`);
    const round = (v: readonly [number, number, number]): [number, number, number] => [
      Number(v[0].toFixed(3)),
      Number(v[1].toFixed(3)),
      Number(v[2].toFixed(3)),
    ];
    const camera = {
      name,
      position: round(view.position),
      target: round(view.target),
      fieldOfView: view.fieldOfView,
      aspect: current?.aspect ?? 16 / 9,
    };
    if (setCameras([...fields.cameras, camera], `Camera ${name}`)) controls.choose(name);
  };
  const still = (): void => {
    void controls
      .api()
      ?.still(current?.aspect ?? null)
      .then((blob) => {
        const name = controls.stillName();
        download(blob, name);
        say('success', `Saved: ${name}`);
      })
      .catch((error: unknown) => {
        say('error', `The still could not be made: ${String(error)}`);
      });
  };
  useEffect(
    () =>
      commands.register([
        { id: 'still', title: 'Still of the view as PNG', keys: null, run: still },
        {
          id: 'camera-save',
          title: 'Save this view as a camera',
          keys: null,
          run: () => {
            setNaming(true);
          },
        },
        {
          id: 'frame-all',
          title: 'Look at the whole limit box',
          keys: null,
          run: () => {
            controls.choose(null);
            controls.api()?.frame();
          },
        },
      ]),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what they act on is asked for when they run
    [controls, current],
  );
  const close = (): void => {
    setMenu(null);
  };
  return (
    <>
      <Button
        color="inherit"
        size="small"
        aria-haspopup="menu"
        onClick={(e) => {
          setMenu(e.currentTarget);
        }}
        startIcon={<Icon name="camera" size={15} />}
        sx={{ fontWeight: 500 }}
      >
        {current?.name ?? 'Camera'}
      </Button>
      <Menu open={menu !== null} anchorEl={menu} onClose={close}>
        <MenuItem
          onClick={() => {
            close();
            controls.choose(null);
            controls.api()?.frame();
          }}
        >
          Frame all
        </MenuItem>
        {fields.cameras.map((k) => (
          <MenuItem
            key={k.name}
            selected={k.name === controls.current}
            onClick={() => {
              close();
              look(k);
            }}
            sx={{ gap: 1, pr: 1 }}
          >
            {k.name}
            <span className="mono" style={{ color: c.dim, marginLeft: 'auto' }}>
              {ASPECTS.find((a) => Math.abs(a[1] - k.aspect) < 0.01)?.[0] ?? k.aspect.toFixed(2)}
            </span>
          </MenuItem>
        ))}
        <MenuItem
          onClick={() => {
            close();
            setNaming(true);
          }}
        >
          Save this view as a camera…
        </MenuItem>
        {current && <MenuItem divider disabled sx={{ p: 0, minHeight: 0 }} />}
        {current &&
          ASPECTS.map(([title, aspect]) => (
            <MenuItem
              key={title}
              selected={Math.abs(current.aspect - aspect) < 0.01}
              onClick={() => {
                close();
                setCameras(
                  fields.cameras.map((k) => (k.name === current.name ? { ...k, aspect } : k)),
                  `Aspect of ${current.name}`,
                );
              }}
            >
              Aspect {title}
            </MenuItem>
          ))}
        {current && (
          <MenuItem
            onClick={() => {
              close();
              setCameras(
                fields.cameras.filter((k) => k.name !== current.name),
                `Camera ${current.name} removed`,
              );
              controls.choose(null);
            }}
          >
            Remove {current.name}
          </MenuItem>
        )}
        <MenuItem divider disabled sx={{ p: 0, minHeight: 0 }} />
        <MenuItem
          onClick={() => {
            close();
            still();
          }}
        >
          Still of the view as PNG
        </MenuItem>
      </Menu>
      {naming && (
        <NameDialog
          title="Save this view as a camera"
          initial={`Camera ${String(fields.cameras.length + 1)}`}
          action="Save"
          onSave={save}
          onClose={() => {
            setNaming(false);
          }}
        />
      )}
    </>
  );
}
