import type { ScaleLinear } from 'd3-scale';
import { type MouseEvent, type PointerEvent, type RefObject, useState } from 'react';
import type { Key } from '#core/moves';
import { canonicalJson } from '#core/shot';
import { HEIGHT, WIDTH } from './curve-scales';
import { changedKeys, keysWithin, movedKeys } from './key-edits';

interface Place {
  readonly frame: number;
  readonly value: number;
}

interface Keyed {
  readonly keys: readonly Key[];
  readonly picked: ReadonlySet<number>;
}

/** What the hand holds: keys, the slope of one of them, or a box that picks. */
type Held =
  | { readonly kind: 'keys'; readonly at: Place; readonly from: readonly Key[]; readonly picked: ReadonlySet<number> }
  | { readonly kind: 'slope'; readonly index: number; readonly side: 'arrive' | 'leave'; readonly from: readonly Key[] }
  | { readonly kind: 'box'; readonly at: Place };

interface CurveDragInput {
  readonly svg: RefObject<SVGSVGElement | null>;
  readonly x: ScaleLinear<number, number>;
  readonly y: ScaleLinear<number, number>;
  /** Rounds a value to what the scale can tell apart. */
  readonly round: (value: number) => number;
  readonly keys: readonly Key[] | null;
  readonly picked: ReadonlySet<number>;
  readonly onPick: (picked: ReadonlySet<number>) => void;
  readonly onKeys: (keys: readonly Key[]) => void;
}

/** Where an event is on the drawing, as frame and value. */
export function placeOf(event: MouseEvent, { svg, x, y }: Pick<CurveDragInput, 'svg' | 'x' | 'y'>): Place {
  const rect = svg.current?.getBoundingClientRect();
  if (!rect) return { frame: 0, value: 0 };
  return {
    frame: x.invert(((event.clientX - rect.left) / rect.width) * WIDTH),
    value: y.invert(((event.clientY - rect.top) / rect.height) * HEIGHT),
  };
}

/** Dragging on a curve. What is shown meanwhile is given back; it is kept when the hand lets go. */
export function useCurveDrag(input: CurveDragInput) {
  const { svg, round, keys, picked, onPick, onKeys } = input;
  const [held, setHeld] = useState<Held | null>(null);
  const [dragged, setDragged] = useState<Keyed | null>(null);
  const [corner, setCorner] = useState<Place | null>(null);

  /** What the keys are with the hand at a place; null when no keys are dragged. */
  const draggedTo = (p: Place, event: PointerEvent): Keyed | null => {
    if (held?.kind === 'keys') {
      const value = event.shiftKey ? 0 : round(p.value - held.at.value);
      return movedKeys(held.from, held.picked, Math.round(p.frame - held.at.frame), value);
    }
    const key = held?.kind === 'slope' ? held.from[held.index] : undefined;
    if (held?.kind !== 'slope' || !key) return null;
    const run = p.frame - key.frame;
    const side = held.side === 'leave' ? Math.max(run, 0.2) : Math.min(run, -0.2);
    const slope = Number(((p.value - key.value) / side).toPrecision(4));
    return { keys: changedKeys(held.from, new Set([held.index]), { [held.side]: slope }), picked };
  };
  return {
    dragging: held !== null,
    dragged,
    box: held?.kind === 'box' && corner ? ([held.at, corner] as const) : null,
    takeKeys: (event: PointerEvent, n: number): void => {
      if (!keys) return;
      svg.current?.setPointerCapture(event.pointerId);
      const next = picked.has(n) ? picked : event.shiftKey ? new Set([...picked, n]) : new Set([n]);
      onPick(next);
      setHeld({ kind: 'keys', at: placeOf(event, input), from: keys, picked: next });
    },
    takeSlope: (event: PointerEvent, index: number, side: 'arrive' | 'leave'): void => {
      svg.current?.setPointerCapture(event.pointerId);
      setHeld({ kind: 'slope', index, side, from: keys ?? [] });
    },
    takeBox: (event: PointerEvent): void => {
      if (!keys) return;
      svg.current?.setPointerCapture(event.pointerId);
      const at = placeOf(event, input);
      setHeld({ kind: 'box', at });
      setCorner(at);
    },
    onMove: (event: PointerEvent): void => {
      const p = placeOf(event, input);
      if (held?.kind === 'box') setCorner(p);
      else if (held) setDragged(draggedTo(p, event));
    },
    // By where the hand lets go, not by the last picture of the drag: on a busy machine that is an older one.
    onUp: (event: PointerEvent): void => {
      const p = placeOf(event, input);
      const done = draggedTo(p, event);
      if (held?.kind === 'box' && keys) onPick(keysWithin(keys, [held.at.frame, p.frame], [held.at.value, p.value]));
      else if (done && held && held.kind !== 'box' && (held.kind === 'keys' || dragged)) {
        if (canonicalJson(done.keys) !== canonicalJson(held.from)) {
          onPick(done.picked);
          onKeys(done.keys);
        }
      }
      setHeld(null);
      setDragged(null);
      setCorner(null);
    },
  };
}
