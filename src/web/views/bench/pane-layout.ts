/** Height of the frames under the picture, pixels. */
export const STRIP = 132;

/** A picture with its frames under it. */
export const PANE = {
  display: 'grid',
  gridTemplateRows: `minmax(0, 1fr) ${String(STRIP)}px`,
  minWidth: 0,
  minHeight: 0,
  position: 'relative',
} as const;
