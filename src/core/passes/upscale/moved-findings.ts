import { framesText } from '#core/checks';
import type { PassFigure, PassFinding } from '#core/pass';
import type { Moved } from './moved';

interface WithMoved {
  readonly frame: number;
  readonly moved: Moved | null;
}

/** How far a fine pass lies from its base, over the frames. */
export const MOVED_FIGURES: readonly PassFigure<WithMoved>[] = [
  { id: 'moved', title: 'Moved from the base', unit: 'percent', of: (r) => r.moved && 100 * r.moved.density },
  { id: 'centre', title: 'Centre of mass moved by', unit: 'metre', of: (r) => r.moved && r.moved.centre },
  { id: 'extent', title: 'Extents moved by', unit: 'metre', of: (r) => r.moved && r.moved.extent },
];

/** `frame 12` or `frames 12 to 40, 17 of them`. */
export const framesSaid = (frames: readonly number[]): string =>
  framesText({ from: frames[0] ?? 0, to: frames[frames.length - 1] ?? 0, count: frames.length, list: frames });

/** Said when the matter lies elsewhere than the base's by more than a part in the mean over the frames. */
export function movedTooFar(mayMove: number, reports: readonly WithMoved[], remedy: string): PassFinding[] {
  const seen = reports.flatMap((r) => (r.moved ? [{ frame: r.frame, by: r.moved.density }] : []));
  if (seen.length === 0) return [];
  const mean = seen.reduce((n, r) => n + r.by, 0) / seen.length;
  if (mean <= mayMove) return [];
  const percent = (v: number): string => `${String(Math.round(100 * v))} %`;
  const beyond = seen.filter((r) => r.by > mayMove).map((r) => r.frame);
  return [
    {
      id: 'moved',
      title: `Moved by ${percent(mean)} from what was approved`,
      text: `Seen at the voxels of the base, its matter lies elsewhere by more than ${percent(mayMove)} in ${framesSaid(beyond)}. ${remedy}`,
    },
  ];
}
