import { DndContext, type DragEndEvent, KeyboardSensor, PointerSensor, closestCenter, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Switch from '@mui/material/Switch';
import { type KeyboardEvent, type ReactElement, useState } from 'react';
import { type FieldMeta, type FilterSettings, type PassSettings, filterSchema, metaOf, mostStrength } from '#core/shot';
import { useSheet } from '#web/state';
import { Icon, useColours } from '#web/ui';
import { NumberField } from '#web/ui';
import { changePass } from '../passes/pass-edits';

type SurfaceEntry = Extract<PassSettings, { kind: 'surface' }>;

const META = metaOf(filterSchema.shape.kind);
const NAMES = (META?.names ?? {}) as Readonly<Record<FilterSettings['kind'], string>>;
const meta = (field: keyof typeof filterSchema.shape): FieldMeta | null => metaOf(filterSchema.shape[field]);

/** What a strength is measured in, by the filter. */
const STRENGTH = { gaussian: 'Width', median: 'Part', curvature: 'Step' } as const;
const strengthOf = (kind: FilterSettings['kind']): string => (STRENGTH as Readonly<Record<string, string>>)[kind] ?? 'Voxels';

/** The filters of a skin in their order: dragged, or moved with Alt and an arrow key; each with its strength, how often, and what it spares. */
export function FilterStack({ entry }: { entry: SurfaceEntry }): ReactElement {
  const c = useColours();
  const edit = useSheet((s) => s.edit);
  const [adding, setAdding] = useState<HTMLElement | null>(null);
  const { stack } = entry.settings;
  const put = (next: readonly FilterSettings[]): void =>
    void edit((s) => changePass(s, entry.id, (p) => (p.kind === 'surface' ? { ...p, settings: { ...p.settings, stack: [...next] } } : p)));
  const move = (from: number, to: number): void => {
    if (to < 0 || to >= stack.length || from === to) return;
    const next = [...stack];
    const [taken] = next.splice(from, 1);
    if (taken) next.splice(to, 0, taken);
    put(next);
  };
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const onDrop = ({ active, over }: DragEndEvent): void => {
    if (over && active.id !== over.id) move(Number(active.id), Number(over.id));
  };
  return (
    <Box component="section" aria-label="Filters" sx={{ mt: 1, pt: 1, borderTop: `1px solid ${c.line}` }}>
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between' }}>
        <Box component="h3" sx={{ m: 0, fontSize: 13, fontWeight: 650 }}>
          Filters
        </Box>
        <Button size="small" color="inherit" onClick={(e) => setAdding(e.currentTarget)} sx={{ minWidth: 0, color: c.dim, gap: 0.5 }}>
          <Icon name="add" size={13} /> Add a filter
        </Button>
        <Menu open={adding !== null} anchorEl={adding} onClose={() => setAdding(null)}>
          {Object.entries(NAMES).map(([kind, title]) => (
            <MenuItem
              key={kind}
              onClick={() => {
                setAdding(null);
                put([...stack, filterSchema.parse({ kind, strength: Math.min(1, mostStrength(kind as FilterSettings['kind'])) })]);
              }}
            >
              {title}
            </MenuItem>
          ))}
        </Menu>
      </Box>
      {stack.length === 0 && <Box sx={{ color: c.dim, fontSize: 12.5, pb: 0.5 }}>None: the skin is what the distance gives.</Box>}
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDrop}>
        <SortableContext items={stack.map((_f, n) => String(n))} strategy={verticalListSortingStrategy}>
          <Box component="ol" sx={{ listStyle: 'none', m: 0, p: 0 }}>
            {stack.map((filter, n) => (
              <FilterRow
                key={`${String(n)} ${filter.kind}`}
                filter={filter}
                index={n}
                onChange={(change) => put(stack.map((f, m) => (m === n ? { ...f, ...change } : f)))}
                onMove={(by) => move(n, n + by)}
                onRemove={() => put(stack.filter((_f, m) => m !== n))}
              />
            ))}
          </Box>
        </SortableContext>
      </DndContext>
    </Box>
  );
}

interface FilterRowProps {
  readonly filter: FilterSettings;
  readonly index: number;
  readonly onChange: (change: Partial<FilterSettings>) => void;
  readonly onMove: (by: number) => void;
  readonly onRemove: () => void;
}

function FilterRow({ filter, index, onChange, onMove, onRemove }: FilterRowProps): ReactElement {
  const c = useColours();
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: String(index) });
  const name = `${NAMES[filter.kind]} ${String(index + 1)}`;
  const most = mostStrength(filter.kind);
  const onKey = (event: KeyboardEvent): void => {
    const by = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : 0;
    if (by === 0 || !event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    onMove(by);
  };
  const cell = (field: 'strength' | 'iterations' | 'spareThin' | 'spareWalls', title: string, min: number, max: number): ReactElement => {
    const own = meta(field);
    return (
      <Box
        sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: 0.5, fontSize: 12.5, color: c.dim }}
        title={own?.help}
      >
        {title}
        <NumberField
          label={`${name}: ${title}`}
          value={filter[field]}
          unit="none"
          min={min}
          max={max}
          step={own?.step}
          changed={false}
          width={58}
          integer={field === 'iterations'}
          onChange={(v) => onChange({ [field]: v })}
        />
      </Box>
    );
  };
  return (
    <Box
      component="li"
      ref={setNodeRef}
      aria-label={name}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      sx={{
        border: `1px solid ${isDragging ? c.selected : c.line}`,
        borderRadius: 1.5,
        bgcolor: c.raised,
        mt: 0.75,
        px: 1,
        py: 0.5,
        position: 'relative',
        zIndex: isDragging ? 3 : 'auto',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <Box
          {...attributes}
          {...listeners}
          onKeyDown={(e: KeyboardEvent) => {
            onKey(e);
            if (!e.defaultPrevented) (listeners?.['onKeyDown'] as ((e: KeyboardEvent) => void) | undefined)?.(e);
          }}
          aria-label={`${name}: drag, or Alt with an arrow key, to move it`}
          sx={{
            cursor: 'grab',
            color: c.dim,
            display: 'flex',
            touchAction: 'none',
            '&:focus-visible': { outline: `2px solid ${c.selected}` },
          }}
        >
          <Icon name="grip" size={14} />
        </Box>
        <Box sx={{ flex: 1, fontSize: 13, fontWeight: 600, color: filter.on ? c.text : c.dim }}>{NAMES[filter.kind]}</Box>
        <Switch
          size="small"
          color="secondary"
          checked={filter.on}
          slotProps={{ input: { 'aria-label': `${name}: on` } }}
          onChange={(e) => onChange({ on: e.target.checked })}
        />
        <IconButton size="small" aria-label={`${name}: take out`} onClick={onRemove} sx={{ p: 0.25, color: c.dim }}>
          <Icon name="close" size={13} />
        </IconButton>
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 1.5, rowGap: 0.4, pb: 0.25 }}>
        {cell('strength', strengthOf(filter.kind), filter.kind === 'offset' ? -most : 0, most)}
        {cell('iterations', 'Times', 1, 100)}
        {cell('spareThin', 'Spare thin', 0, 1)}
        {cell('spareWalls', 'Spare at walls', 0, 1)}
      </Box>
    </Box>
  );
}
