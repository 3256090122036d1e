import type { ReactElement } from 'react';

const PATHS = {
  shots: 'M3 5h14M3 10h14M3 15h9',
  bench: 'M2 8h16M4 8l-1 8M16 8l1 8M7 8V4h6v4',
  play: 'M6 4l10 6-10 6z',
  pause: 'M6 4v12M13 4v12',
  first: 'M5 4v12M15 4l-8 6 8 6z',
  last: 'M15 4v12M5 4l8 6-8 6z',
  previous: 'M13 4l-8 6 8 6z',
  next: 'M7 4l8 6-8 6z',
  undo: 'M7 4L3 8l4 4M3 8h9a4 4 0 010 8H9',
  redo: 'M13 4l4 4-4 4M17 8H8a4 4 0 000 8h3',
  reset: 'M4 10a6 6 0 106-6H6M8 1L5 4l3 3',
  sun: 'M10 6a4 4 0 100 8 4 4 0 000-8M10 1v2M10 17v2M1 10h2M17 10h2M4 4l1 1M15 15l1 1M4 16l1-1M15 5l1-1',
  moon: 'M15 12A6 6 0 018 5a6 6 0 107 7z',
  copy: 'M7 7h9v9H7zM4 13V4h9',
  close: 'M5 5l10 10M15 5L5 15',
  check: 'M10 2l6 2v5c0 5-3 7-6 9-3-2-6-4-6-9V4zM7 9l2 3 4-5',
  add: 'M10 4v12M4 10h12',
  down: 'M5 8l5 5 5-5',
  frame: 'M3 7V3h4M13 3h4v4M17 13v4h-4M7 17H3v-4',
  free: 'M4 6h12M8 6V4h4v2M6 6l1 11h6l1-11',
  keys: 'M2 6h16v9H2zM5 9h1M9 9h1M13 9h1M6 12h8',
  compare: 'M10 2v16M3 5h4v10H3zM13 5h4v10h-4z',
  eye: 'M2 10s3-5 8-5 8 5 8 5-3 5-8 5-8-5-8-5zM10 8a2 2 0 100 4 2 2 0 000-4',
  hidden: 'M3 3l14 14M2 10s3-5 8-5M18 10s-3 5-8 5',
  camera: 'M2 6h4l2-2h4l2 2h4v10H2zM10 8a3 3 0 100 6 3 3 0 000-6',
  note: 'M4 3h12v10l-4 4H4zM7 7h6M7 10h4',
  move: 'M10 2v16M2 10h16M10 2L8 4M10 2l2 2M10 18l-2-2M10 18l2-2M2 10l2-2M2 10l2 2M18 10l-2-2M18 10l-2 2',
  record: 'M3 17V3M3 17h14M6 13l8-8M7 8h.01M10 11h.01M13 12h.01M14 8h.01',
  three: 'M2 5h4v10H2zM8 5h4v10H8zM14 5h4v10h-4z',
  more: 'M4 10h.01M10 10h.01M16 10h.01',
  scale: 'M3 17L17 3M3 17v-5M3 17h5M17 3v5M17 3h-5',
  curve: 'M2 15c5 0 4-10 8-10s3 7 8 7M2 13v4M9 3v4M17 10v4',
  download: 'M10 3v9M6 9l4 4 4-4M4 16h12',
} as const;

export type IconName = keyof typeof PATHS;

const FILLED: ReadonlySet<IconName> = new Set(['play', 'first', 'last', 'previous', 'next']);

/** Line icons of 20 x 20, drawn for Ruddle. */
export const Icon = ({ name, size = 18 }: { name: IconName; size?: number }): ReactElement => (
  <svg
    width={size}
    height={size}
    viewBox="0 0 20 20"
    fill={FILLED.has(name) ? 'currentColor' : 'none'}
    stroke="currentColor"
    strokeWidth={1.6}
    strokeLinecap="round"
    strokeLinejoin="round"
    aria-hidden
  >
    <path d={PATHS[name]} />
  </svg>
);
