import Box from '@mui/material/Box';
import visuallyHidden from '@mui/utils/visuallyHidden';
import {
  type ColumnDef,
  createSortedRowModel,
  rowSortingFeature,
  sortFn_alphanumeric,
  sortFn_basic,
  tableFeatures,
  useTable,
} from '@tanstack/react-table';
import type { ReactElement } from 'react';
import type { ShotRowDto } from '#protocol';
import { Icon, useColours } from '#web/ui';
import { BrokenRow } from './broken-row';
import { COLUMNS } from './columns';
import { ShotRow } from './shot-row';
import { useDeletion } from './use-deletion';

const features = tableFeatures({
  rowSortingFeature,
  sortedRowModel: createSortedRowModel(),
  sortFns: { alphanumeric: sortFn_alphanumeric, basic: sortFn_basic },
});

const sumOf = (row: ShotRowDto, what: 'seconds' | 'bytes'): number => (row.readable ? row.runs.reduce((n, r) => n + r[what], 0) : 0);

const columns: ColumnDef<typeof features, ShotRowDto>[] = [
  { id: 'picture', header: 'Picture', enableSorting: false },
  { id: 'shot', header: 'Shot', accessorFn: (r) => (r.readable ? r.fields.name : r.slug), sortFn: 'alphanumeric' },
  { id: 'baked', header: 'Baked', accessorFn: (r) => (r.readable ? r.runs.length : 0), sortFn: 'basic' },
  { id: 'time', header: 'Time', accessorFn: (r) => sumOf(r, 'seconds'), sortFn: 'basic' },
  { id: 'disk', header: 'Disk', accessorFn: (r) => sumOf(r, 'bytes'), sortFn: 'basic' },
  { id: 'last', header: 'Last activity', accessorFn: (r) => r.lastActivity, sortFn: 'basic' },
  { id: 'actions', header: 'Actions', enableSorting: false },
];
const UNNAMED = new Set(['picture', 'actions']);
const ORDER = { asc: 'ascending', desc: 'descending' } as const;

/** The shots, in the order of a column whose head is pressed. */
export function ShotsTable({ shots }: { shots: readonly ShotRowDto[] }): ReactElement {
  const c = useColours();
  const deletion = useDeletion();
  const table = useTable({ features, columns, data: shots, getRowId: (r) => r.id });
  return (
    <Box role="table" aria-label="Shots" sx={{ border: `1px solid ${c.line}`, borderRadius: 1.5, bgcolor: c.panel, minWidth: 980 }}>
      <Box
        role="row"
        sx={{
          display: 'grid',
          gridTemplateColumns: COLUMNS,
          gap: 2,
          px: 1.5,
          py: 1,
          fontSize: 12,
          color: c.dim,
          borderBottom: `1px solid ${c.line}`,
          '& button': { all: 'unset', cursor: 'pointer', display: 'inline-flex', gap: 0.5, alignItems: 'center' },
          '& button:hover': { color: c.text },
          '& button:focus-visible': { outline: `2px solid ${c.selected}` },
        }}
      >
        {table.getHeaderGroups()[0]?.headers.map(({ id, column }) => {
          const order = column.getIsSorted();
          const title = String(column.columnDef.header);
          return (
            <span key={id} role="columnheader" aria-sort={order ? ORDER[order] : undefined}>
              {UNNAMED.has(id) ? (
                <span style={visuallyHidden}>{title}</span>
              ) : (
                <button onClick={column.getToggleSortingHandler()}>
                  {title}
                  {order && <Icon name={order === 'asc' ? 'up' : 'down'} size={11} />}
                </button>
              )}
            </span>
          );
        })}
      </Box>
      {table
        .getRowModel()
        .rows.map(({ original: row }) =>
          row.readable ? (
            <ShotRow key={row.id} row={row} onDelete={() => deletion.remove({ id: row.id, name: row.fields.name })} />
          ) : (
            <BrokenRow key={row.id} row={row} onDelete={() => deletion.remove({ id: row.id, name: row.slug })} />
          ),
        )}
      {deletion.dialog}
    </Box>
  );
}
