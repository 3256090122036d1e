import { scaleLinear } from 'd3-scale';
import type { CacheState, FrameDto } from '#protocol';
import type { Colours } from '#web/ui';

export interface StripLayout {
  readonly first: number;
  readonly last: number;
  /** Frames a cell: more than 1 when there are more frames than room. */
  readonly perCell: number;
  readonly cell: number;
  readonly left: number;
  readonly x: (frame: number) => number;
  readonly frameAt: (x: number) => number;
}

const MARGIN = 14;
/** Narrower cells are binned. */
const MIN_CELL = 4;
const TOP = 12;
const TICKS = 24;
const LABELS = 18;
/** Room for a frame's number, pixels; round steps may come half as near again. */
const LABEL_EVERY = 70;

export function layoutStrip(first: number, last: number, width: number): StripLayout {
  const count = last - first + 1;
  const room = Math.max(50, width - 2 * MARGIN);
  const perCell = Math.max(1, Math.ceil((count * MIN_CELL) / room));
  const cells = Math.ceil(count / perCell);
  const cell = room / cells;
  return {
    first,
    last,
    perCell,
    cell,
    left: MARGIN,
    x: (frame) => MARGIN + Math.floor((frame - first) / perCell) * cell,
    frameAt: (x) => Math.min(last, Math.max(first, first + Math.floor((x - MARGIN) / cell) * perCell)),
  };
}

/** A frame of any pass; what has no substeps says none. */
export interface StripFrame extends Pick<FrameDto, 'frame' | 'stored' | 'damage'> {
  readonly report: { readonly totalSeconds: number; readonly substepsUsed?: number; readonly substepsWanted?: number };
}

interface StripPicture {
  readonly width: number;
  readonly height: number;
  readonly layout: StripLayout;
  readonly frames: readonly StripFrame[];
  readonly frame: number | null;
  readonly firstFrame: number;
  readonly state: CacheState;
  /** Predicted seconds by frame; drawn where nothing is measured yet. */
  readonly predicted: ReadonlyMap<number, number>;
  /** Frames at which something was found. */
  readonly notches: ReadonlySet<number>;
  readonly colours: Colours;
}

/** A cell of the strip: its frames put together (highest bar, most substeps). */
interface Cell {
  seconds: number;
  substeps: number;
  wanted: number;
  stored: boolean;
  damaged: boolean;
  preRoll: boolean;
}

export function drawStrip(g: CanvasRenderingContext2D, picture: StripPicture): void {
  const { width, height, layout, frames, frame, firstFrame, state, predicted, notches, colours: c } = picture;
  g.clearRect(0, 0, width, height);
  const cells = new Map<number, Cell>();
  for (const f of frames) {
    if (f.frame < layout.first || f.frame > layout.last) continue;
    const n = Math.floor((f.frame - layout.first) / layout.perCell);
    const cell = cells.get(n) ?? { seconds: 0, substeps: 0, wanted: 0, stored: true, damaged: false, preRoll: f.frame < firstFrame };
    cell.seconds = Math.max(cell.seconds, f.report.totalSeconds);
    cell.substeps = Math.max(cell.substeps, f.report.substepsUsed ?? 0);
    cell.wanted = Math.max(cell.wanted, f.report.substepsWanted ?? 0);
    cell.stored &&= f.stored || f.frame < firstFrame;
    cell.damaged ||= f.damage !== null;
    cells.set(n, cell);
  }
  const bottom = height - LABELS;
  const top = TOP + TICKS;
  const ghosts = new Map<number, number>();
  for (const [f, seconds] of predicted) {
    if (f < layout.first || f > layout.last) continue;
    const n = Math.floor((f - layout.first) / layout.perCell);
    if (!cells.has(n)) ghosts.set(n, Math.max(ghosts.get(n) ?? 0, seconds));
  }
  // The tallest bar is scaled to, but one slow frame must not flatten the rest: to the 98th percentile.
  const sorted = [...[...cells.values()].map((v) => v.seconds), ...ghosts.values()].sort((a, b) => a - b);
  const scale = (bottom - top) / Math.max(1e-6, (sorted[Math.floor((sorted.length - 1) * 0.98)] ?? 1) * 1.08);
  const count = Math.ceil((layout.last - layout.first + 1) / layout.perCell);
  const gap = layout.cell > 5 ? 1 : 0.5;
  for (let n = 0; n < count; n++) {
    const x = layout.left + n * layout.cell;
    const w = Math.max(1, layout.cell - gap);
    const cell = cells.get(n);
    if (layout.first + n * layout.perCell < firstFrame) dotted(g, x, top - 4, layout.cell, bottom - top + 4, c.line);
    if (!cell) {
      const ghost = Math.min(bottom - top, Math.max(3, (ghosts.get(n) ?? 0) * scale));
      g.strokeStyle = ghosts.has(n) ? c.dim : c.line;
      g.setLineDash([2, 2]);
      g.strokeRect(x + 0.5, bottom - ghost - 0.5, Math.max(1, w - 1), ghost);
      g.setLineDash([]);
      continue;
    }
    const h = Math.min(bottom - top, Math.max(2, cell.seconds * scale));
    // Of a damaged cache each frame says for itself whether it is one of those.
    drawBar(g, x, bottom - h, w, h, cell, cell.damaged ? 'failed' : state === 'damaged' ? 'fresh' : state, c);
    for (let s = 0; s < Math.min(cell.substeps, 8); s++) {
      g.fillStyle = cell.wanted > cell.substeps ? c.warning : c.dim;
      g.fillRect(x, TOP + TICKS - 8 - s * 3, Math.max(1, w * 0.7), 1.5);
    }
  }
  drawNotches(g, notches, layout, top, c.warning);
  labels(g, picture, bottom);
  if (frame !== null && frame >= layout.first && frame <= layout.last) {
    const x = layout.x(frame) + layout.cell / 2;
    g.strokeStyle = c.selected;
    g.lineWidth = 2;
    g.beginPath();
    g.moveTo(x, 4);
    g.lineTo(x, bottom);
    g.stroke();
    g.lineWidth = 1;
    g.fillStyle = c.selected;
    g.beginPath();
    g.moveTo(x - 5, 2);
    g.lineTo(x + 5, 2);
    g.lineTo(x, 9);
    g.fill();
  }
}

/** A triangle where something was found; frames that follow each other share a line, so that a long finding is one mark. */
function drawNotches(g: CanvasRenderingContext2D, notches: ReadonlySet<number>, layout: StripLayout, y: number, colour: string): void {
  g.fillStyle = colour;
  for (const [from, to] of spansOf(notches, layout)) {
    const [x0, x1] = [layout.x(from) + layout.cell / 2, layout.x(to) + layout.cell / 2];
    g.fillRect(x0, y - 7, Math.max(0, x1 - x0), 2);
    g.beginPath();
    g.moveTo(x0 - 4, y - 7);
    g.lineTo(x0 + 4, y - 7);
    g.lineTo(x0, y);
    g.fill();
  }
}

/** Runs of frames without a gap wider than a cell. */
export function spansOf(frames: ReadonlySet<number>, layout: Pick<StripLayout, 'first' | 'last' | 'perCell'>): [number, number][] {
  const sorted = [...frames].filter((f) => f >= layout.first && f <= layout.last).sort((a, b) => a - b);
  const spans: [number, number][] = [];
  for (const f of sorted) {
    const last = spans[spans.length - 1];
    if (last && f - last[1] <= Math.max(1, layout.perCell)) last[1] = f;
    else spans.push([f, f]);
  }
  return spans;
}

/** Texture by state: filled fresh, hatched stale, half partial, crossed failed; pre-roll paler. */
function drawBar(g: CanvasRenderingContext2D, x: number, y: number, w: number, h: number, cell: Cell, state: CacheState, c: Colours): void {
  const colour = state === 'stale' ? c.warning : state === 'failed' ? c.failed : c.fresh;
  g.globalAlpha = cell.preRoll ? 0.45 : 1;
  if (state === 'stale' || state === 'failed') {
    g.save();
    g.beginPath();
    g.rect(x, y, w, h);
    g.clip();
    g.fillStyle = colour;
    g.globalAlpha *= 0.25;
    g.fillRect(x, y, w, h);
    g.globalAlpha = cell.preRoll ? 0.45 : 1;
    g.strokeStyle = colour;
    g.beginPath();
    for (let k = -h; k < w + h; k += 4) {
      g.moveTo(x + k, y + h);
      g.lineTo(x + k + h, y);
      if (state === 'failed') {
        g.moveTo(x + k, y);
        g.lineTo(x + k + h, y + h);
      }
    }
    g.stroke();
    g.restore();
    g.strokeStyle = colour;
    g.strokeRect(x + 0.5, y + 0.5, Math.max(0.5, w - 1), h - 0.5);
  } else if (state === 'missing') {
    g.strokeStyle = c.dim;
    g.strokeRect(x + 0.5, y + 0.5, Math.max(0.5, w - 1), h - 0.5);
  } else {
    g.fillStyle = colour;
    g.fillRect(x, y, w, h);
  }
  g.globalAlpha = 1;
}

function dotted(g: CanvasRenderingContext2D, x: number, y: number, w: number, h: number, colour: string): void {
  g.fillStyle = colour;
  for (let i = x + 2; i < x + w; i += 6) for (let j = y; j < y + h; j += 6) g.fillRect(i, j, 1, 1);
}

/** Frame numbers, as many as there is room for. */
function labels(g: CanvasRenderingContext2D, { layout, firstFrame, colours: c }: StripPicture, bottom: number): void {
  g.fillStyle = c.dim;
  g.font = "11px 'JetBrains Mono Variable', monospace";
  g.textBaseline = 'top';
  if (layout.first < firstFrame) g.fillText(`pre-roll ${String(firstFrame - layout.first)}`, layout.left, bottom + 4);
  const start = Math.max(layout.first, firstFrame);
  for (const f of labelledFrames(start, layout.last, ((layout.last - start + 1) * layout.cell) / layout.perCell)) {
    g.fillText(String(f), layout.x(f), bottom + 4);
  }
}

/** The first frame and round ones after it, no nearer to each other than their numbers are wide. */
export function labelledFrames(first: number, last: number, room: number): number[] {
  const round = scaleLinear()
    .domain([first, Math.max(last, first + 1)])
    .ticks(Math.max(1, room / LABEL_EVERY))
    .filter((f) => Number.isInteger(f) && f <= last);
  const step = (round[1] ?? last) - (round[0] ?? first);
  return [first, ...round.filter((f) => f > first && f - first >= step * 0.75)];
}
