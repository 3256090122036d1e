import { DndContext, type DragEndEvent, PointerSensor, closestCenter, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, horizontalListSortingStrategy } from '@dnd-kit/sortable';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { type KeyboardEvent, type ReactElement, useState } from 'react';
import { type FollowerKind, SOLVE, followersOf, withFollowers } from '#core/shot';
import { useCommands } from '#web/commands';
import { mainSketch, navigate, passKinds, say, useSheet } from '#web/state';
import { Icon, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { PassChip } from './pass-chip';
import { movedPass, withPass } from './pass-edits';

/** Looks at a pass, at the same frame. A Sketch is of the solve: it is not computed on unseen. */
function selectPass(id: string): void {
  if (id !== SOLVE) mainSketch().stop();
  navigate({ pass: id === SOLVE ? null : id, run: null, channel: null, with: null });
}

/** Adds a pass and looks at it. */
function addPass(kind: FollowerKind, looked: string): void {
  const made = withPass(followersOf(useSheet.getState().settings), kind, looked);
  if (useSheet.getState().edit((s) => withFollowers(s, made.passes))) selectPass(made.id);
}

function movePass(id: string, by: number): void {
  const { settings, edit } = useSheet.getState();
  const followers = followersOf(settings);
  const from = followers.findIndex((p) => p.id === id);
  const next = movedPass(followers, from, from + by);
  if (next) edit((s) => withFollowers(s, next));
  else say('info', 'It cannot stand there: a pass comes after what it reads.');
}

/** The keyboard has its own way (Alt and an arrow key), which says itself what it did. */
const QUIET = { onDragStart: () => undefined, onDragOver: () => undefined, onDragEnd: () => undefined, onDragCancel: () => undefined };

/** The passes of the sheet in order: how each stands, what it took or would take. Arrow keys go from one to the next; Alt with them, or the pointer, moves it. */
export function PassRow(): ReactElement {
  const c = useColours();
  const { passes, pass } = useBench();
  const [adding, setAdding] = useState<HTMLElement | null>(null);
  const selected = pass?.id ?? SOLVE;
  const step = (by: number): void => {
    const at = passes.findIndex((p) => p.id === selected);
    const next = passes[(at + by + passes.length) % passes.length];
    if (next) selectPass(next.id);
  };
  useCommands([
    { id: 'pass-on', title: 'Next pass', keys: 'Shift+p', run: () => step(1) },
    ...passKinds.map(({ kind, title }) => ({
      id: `add-${kind}`,
      title: `Add a pass: ${title}`,
      keys: null,
      run: () => addPass(kind, selected),
    })),
  ]);
  const onKey = (event: KeyboardEvent, id: string): void => {
    const by = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
    if (by === 0) return;
    event.preventDefault();
    if (event.altKey && id !== SOLVE) movePass(id, by);
    else if (!event.altKey) step(by);
  };
  // A press that moves less is a choice, not a drag.
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const onDrop = ({ active, over }: DragEndEvent): void => {
    if (!over || active.id === over.id) return;
    const at = (id: string | number): number => passes.findIndex((p) => p.id === id);
    movePass(String(active.id), at(over.id) - at(active.id));
  };
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 0.75,
        px: 1.5,
        py: 0.6,
        borderBottom: `1px solid ${c.line}`,
        bgcolor: c.panel,
        overflowX: 'auto',
        minWidth: 0,
      }}
    >
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDrop} accessibility={{ announcements: QUIET }}>
        <SortableContext items={passes.map((p) => p.id)} strategy={horizontalListSortingStrategy}>
          <Box role="tablist" aria-label="Passes" sx={{ display: 'flex', gap: 0.75 }}>
            {passes.map((p) => (
              <PassChip key={p.id} pass={p} chosen={p.id === selected} onSelect={selectPass} onKey={onKey} />
            ))}
          </Box>
        </SortableContext>
      </DndContext>
      <Button
        size="small"
        color="inherit"
        onClick={(e) => setAdding(e.currentTarget)}
        sx={{ flexShrink: 0, minWidth: 0, height: 28, color: c.dim, gap: 0.5, px: 1 }}
      >
        <Icon name="add" size={13} /> Add a pass
      </Button>
      <Menu open={adding !== null} anchorEl={adding} onClose={() => setAdding(null)}>
        {passKinds.map(({ kind, title, about }) => (
          <MenuItem
            key={kind}
            onClick={() => {
              setAdding(null);
              addPass(kind, selected);
            }}
            sx={{ display: 'block', maxWidth: 380, whiteSpace: 'normal' }}
          >
            <Box sx={{ fontWeight: 600 }}>{title}</Box>
            <Box sx={{ color: c.dim, fontSize: 12.5 }}>{about}</Box>
          </MenuItem>
        ))}
      </Menu>
    </Box>
  );
}
