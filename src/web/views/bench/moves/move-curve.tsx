import Box from '@mui/material/Box';
import { type KeyboardEvent, type PointerEvent, type ReactElement, useRef, useState } from 'react';
import type { Key } from '#core/moves';
import { canonicalJson } from '#core/shot';
import { type Unit, formatQuantity } from '#core/units';
import { useColours } from '#web/ui';
import { changedKeys, keysWithin, movedKeys, niceRange, slopeOf, withKey, withoutKeys } from './key-edits';

const WIDTH = 720;
const HEIGHT = 270;
const PLOT = { left: 64, right: 706, top: 12, bottom: 244 };
/** Handles of a slope stand this far from their key, in the drawing's units. */
const ARM = 46;

interface MoveCurveProps {
  readonly title: string;
  readonly unit: Unit;
  readonly frames: readonly [number, number];
  /** Value at a frame, of what is shown while a key is dragged too. */
  readonly valueAt: (frame: number, keys: readonly Key[] | null) => number;
  /** null: an expression, only shown. */
  readonly keys: readonly Key[] | null;
  readonly picked: ReadonlySet<number>;
  readonly now: number | null;
  readonly onPick: (picked: ReadonlySet<number>) => void;
  readonly onKeys: (keys: readonly Key[]) => void;
}

type Drag =
  | { readonly kind: 'keys'; readonly x: number; readonly y: number; readonly from: readonly Key[]; readonly picked: ReadonlySet<number> }
  | { readonly kind: 'slope'; readonly index: number; readonly side: 'arrive' | 'leave'; readonly from: readonly Key[] }
  | { readonly kind: 'box'; readonly frame: number; readonly value: number };

/** Value against frames: keys are dragged (they snap to frames), picked by a box, added by a double click, stepped by the arrow keys, taken by Delete. */
export function MoveCurve({ title, unit, frames, valueAt, keys, picked, now, onPick, onKeys }: MoveCurveProps): ReactElement {
  const c = useColours();
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const [dragged, setDragged] = useState<{ readonly keys: readonly Key[]; readonly picked: ReadonlySet<number> } | null>(null);
  const [box, setBox] = useState<{ readonly frame: number; readonly value: number } | null>(null);
  const [first, last] = frames;
  const shown = dragged?.keys ?? keys;
  const chosen = dragged?.picked ?? picked;
  // The range stays while something is dragged: what is under the hand must not run away.
  const held = useRef<ReturnType<typeof niceRange> | null>(null);
  const samples = Array.from({ length: 241 }, (_v, n) => first + ((last - first) * n) / 240);
  const values = samples.map((f) => valueAt(f, shown));
  const range = drag && held.current ? held.current : niceRange([...values, ...(shown ?? []).map((k) => k.value)]);
  held.current = range;
  const { low, high, step } = range;
  const x = (frame: number): number => PLOT.left + ((frame - first) / Math.max(1, last - first)) * (PLOT.right - PLOT.left);
  const y = (value: number): number => PLOT.bottom - ((value - low) / (high - low)) * (PLOT.bottom - PLOT.top);
  const perFrame = (PLOT.right - PLOT.left) / Math.max(1, last - first);
  const perValue = (PLOT.bottom - PLOT.top) / (high - low);
  const at = (event: PointerEvent | React.MouseEvent): { frame: number; value: number } => {
    const rect = svg.current?.getBoundingClientRect();
    const px = rect ? ((event.clientX - rect.left) / rect.width) * WIDTH : 0;
    const py = rect ? ((event.clientY - rect.top) / rect.height) * HEIGHT : 0;
    return { frame: first + (px - PLOT.left) / perFrame, value: low + (PLOT.bottom - py) / perValue };
  };
  const round = (value: number): number => Number((Math.round(value / (step / 100)) * (step / 100)).toPrecision(8));

  /** What the keys are with the hand at the event's place; null when no keys are dragged. */
  const draggedBy = (event: PointerEvent): { readonly keys: readonly Key[]; readonly picked: ReadonlySet<number> } | null => {
    const p = at(event);
    if (drag?.kind === 'keys') {
      return movedKeys(drag.from, drag.picked, Math.round(p.frame - drag.x), event.shiftKey ? 0 : round(p.value - drag.y));
    }
    const key = drag?.kind === 'slope' ? drag.from[drag.index] : undefined;
    if (drag?.kind !== 'slope' || !key) return null;
    const run = p.frame - key.frame;
    const side = drag.side === 'leave' ? Math.max(run, 0.2) : Math.min(run, -0.2);
    const slope = Number(((p.value - key.value) / side).toPrecision(4));
    return { keys: changedKeys(drag.from, new Set([drag.index]), { [drag.side]: slope }), picked };
  };
  const onMove = (event: PointerEvent): void => {
    if (drag?.kind === 'box') setBox(at(event));
    else if (drag) setDragged(draggedBy(event));
  };
  // By where the hand lets go, not by the last picture of the drag: on a busy machine that is an older one.
  const onUp = (event: PointerEvent): void => {
    const p = at(event);
    const done = draggedBy(event);
    if (drag?.kind === 'box' && keys) onPick(keysWithin(keys, [drag.frame, p.frame], [drag.value, p.value]));
    else if (done && drag && 'from' in drag && canonicalJson(done.keys) !== canonicalJson(drag.from) && (drag.kind === 'keys' || dragged)) {
      onPick(done.picked);
      onKeys(done.keys);
    }
    setDrag(null);
    setDragged(null);
    setBox(null);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (!keys || picked.size === 0) return;
    const frameStep = { ArrowLeft: -1, ArrowRight: 1 }[event.key] ?? 0;
    const valueStep = ({ ArrowUp: 1, ArrowDown: -1 }[event.key] ?? 0) * (step / (event.shiftKey ? 2 : 20));
    if (event.key === 'Delete' || event.key === 'Backspace') {
      onPick(new Set());
      onKeys(withoutKeys(keys, picked));
    } else if (frameStep !== 0 || valueStep !== 0) {
      const next = movedKeys(keys, picked, frameStep, round(valueStep));
      onPick(next.picked);
      onKeys(next.keys);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };

  const path = values
    .map((v, n) =>
      Number.isFinite(v)
        ? `${n === 0 || !Number.isFinite(values[n - 1] ?? NaN) ? 'M' : 'L'}${x(samples[n] ?? 0).toFixed(1)} ${y(v).toFixed(1)}`
        : '',
    )
    .join('');
  const rows = Array.from({ length: Math.round((high - low) / step) + 1 }, (_v, n) => low + n * step);
  const gap = [1, 2, 4, 8, 12, 24, 48, 96, 240, 480, 1000].find((n) => n * perFrame >= 46) ?? 2000;
  const columns = Array.from({ length: Math.floor((last - first) / gap) + 1 }, (_v, n) => first + n * gap);
  return (
    <Box
      sx={{ border: `1px solid ${c.line}`, borderRadius: 1.5, bgcolor: c.page, outlineOffset: 2 }}
      tabIndex={keys ? 0 : undefined}
      role="group"
      aria-label={`${title} over the shot${keys ? `: ${String(keys.length)} keys, ${String(picked.size)} picked; arrow keys move what is picked, Delete takes it` : ''}`}
      onKeyDown={onKeyDown}
      data-testid="move-curve"
    >
      <svg
        ref={svg}
        viewBox={`0 0 ${String(WIDTH)} ${String(HEIGHT)}`}
        style={{ display: 'block', width: '100%', touchAction: 'none', cursor: keys ? 'crosshair' : 'default' }}
        onPointerDown={(e) => {
          if (!keys) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          const p = at(e);
          setDrag({ kind: 'box', ...p });
          setBox(p);
        }}
        onPointerMove={onMove}
        onPointerUp={onUp}
        onDoubleClick={(e) => {
          if (!keys) return;
          const p = at(e);
          const added = withKey(keys, Math.round(p.frame), round(p.value));
          onPick(new Set([added.index]));
          onKeys(added.keys);
        }}
      >
        <g stroke={c.line} strokeWidth={1}>
          {rows.map((v) => (
            <path key={v} d={`M${String(PLOT.left)} ${y(v).toFixed(1)}H${String(PLOT.right)}`} />
          ))}
          {columns.map((f) => (
            <path key={f} d={`M${x(f).toFixed(1)} ${String(PLOT.top)}V${String(PLOT.bottom)}`} strokeOpacity={0.5} />
          ))}
        </g>
        <g fontSize={11} fill={c.dim} fontFamily="JetBrains Mono Variable, monospace">
          {rows.map((v) => (
            <text key={v} x={PLOT.left - 10} y={y(v) + 4} textAnchor="end">
              {formatQuantity(Math.abs(v) < step / 1e6 ? 0 : v, unit, { digits: 3 })}
            </text>
          ))}
          {columns.map((f) => (
            <text key={f} x={x(f)} y={PLOT.bottom + 17} textAnchor="middle">
              {f}
            </text>
          ))}
        </g>
        {now !== null && now >= first && now <= last && (
          <path d={`M${x(now).toFixed(1)} ${String(PLOT.top)}V${String(PLOT.bottom)}`} stroke={c.selected} strokeWidth={1.2} />
        )}
        <path d={path} fill="none" stroke={c.fresh} strokeWidth={2} />
        {drag?.kind === 'box' && box && (
          <rect
            x={Math.min(x(drag.frame), x(box.frame))}
            y={Math.min(y(drag.value), y(box.value))}
            width={Math.abs(x(drag.frame) - x(box.frame))}
            height={Math.abs(y(drag.value) - y(box.value))}
            fill={c.selected}
            fillOpacity={0.12}
            stroke={c.selected}
          />
        )}
        {(shown ?? []).map((k, n) => (
          <g key={n}>
            {chosen.size === 1 &&
              chosen.has(n) &&
              (['arrive', 'leave'] as const)
                .filter((side) =>
                  side === 'leave' ? k.then === 'smooth' && n + 1 < (shown?.length ?? 0) : n > 0 && shown?.[n - 1]?.then === 'smooth',
                )
                .map((side) => {
                  const slope = slopeOf(shown ?? [], n, side);
                  const [dx, dy] = [perFrame, -slope * perValue];
                  const length = Math.hypot(dx, dy);
                  const way = (side === 'leave' ? ARM : -ARM) / length;
                  const [hx, hy] = [x(k.frame) + dx * way, y(k.value) + dy * way];
                  return (
                    <g key={side}>
                      <path d={`M${x(k.frame).toFixed(1)} ${y(k.value).toFixed(1)}L${hx.toFixed(1)} ${hy.toFixed(1)}`} stroke={c.dim} />
                      <circle
                        cx={hx}
                        cy={hy}
                        r={4.5}
                        fill={k[side] === null ? c.page : c.dim}
                        stroke={c.dim}
                        style={{ cursor: 'grab' }}
                        onPointerDown={(e) => {
                          e.stopPropagation();
                          svg.current?.setPointerCapture(e.pointerId);
                          setDrag({ kind: 'slope', index: n, side, from: keys ?? [] });
                        }}
                      />
                    </g>
                  );
                })}
            <rect
              x={x(k.frame) - 5}
              y={y(k.value) - 5}
              width={10}
              height={10}
              transform={`rotate(45 ${x(k.frame).toFixed(1)} ${y(k.value).toFixed(1)})`}
              fill={chosen.has(n) ? c.selected : c.raised}
              stroke={chosen.has(n) ? c.text : c.fresh}
              strokeWidth={1.5}
              style={{ cursor: 'move' }}
              data-key={n}
              onPointerDown={(e) => {
                e.stopPropagation();
                if (!keys) return;
                svg.current?.setPointerCapture(e.pointerId);
                const p = at(e);
                const next = picked.has(n) ? picked : e.shiftKey ? new Set([...picked, n]) : new Set([n]);
                onPick(next);
                setDrag({ kind: 'keys', x: p.frame, y: p.value, from: keys, picked: next });
              }}
            />
          </g>
        ))}
      </svg>
    </Box>
  );
}
