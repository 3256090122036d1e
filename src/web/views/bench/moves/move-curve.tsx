import Box from '@mui/material/Box';
import { type KeyboardEvent, type MouseEvent, type ReactElement, useRef } from 'react';
import type { Key } from '#core/moves';
import { type Unit, formatQuantity } from '#core/units';
import { useColours } from '#web/ui';
import { CurveKey } from './curve-key';
import { HEIGHT, PLOT, WIDTH, frameScale, frameTicks, valueScale } from './curve-scales';
import { movedKeys, withKey, withoutKeys } from './key-edits';
import { placeOf, useCurveDrag } from './use-curve-drag';

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

const SAMPLES = 240;

/** Value against frames: keys are dragged (they snap to frames), picked by a box, added by a double click, stepped by the arrow keys, taken by Delete. */
export function MoveCurve({ title, unit, frames, valueAt, keys, picked, now, onPick, onKeys }: MoveCurveProps): ReactElement {
  const c = useColours();
  const svg = useRef<SVGSVGElement>(null);
  const [first, last] = frames;
  const x = frameScale(frames);
  const sampled = (of: readonly Key[] | null): [number, number][] =>
    Array.from({ length: SAMPLES + 1 }, (_v, n) => first + ((last - first) * n) / SAMPLES).map((f) => [f, valueAt(f, of)]);
  // The range is that of what is kept, not of what is dragged: what is under the hand must not run away.
  const y = valueScale([...sampled(keys).map(([, v]) => v), ...(keys ?? []).map((k) => k.value)]);
  const rows = y.ticks(5);
  const step = (rows[1] ?? 1) - (rows[0] ?? 0);
  const round = (value: number): number => Number((Math.round(value / (step / 100)) * (step / 100)).toPrecision(8));
  const drag = useCurveDrag({ svg, x, y, round, keys, picked, onPick, onKeys });
  const shown = drag.dragged?.keys ?? keys;
  const chosen = drag.dragged?.picked ?? picked;

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
  const addKey = (event: MouseEvent): void => {
    if (!keys) return;
    const p = placeOf(event, { svg, x, y });
    const added = withKey(keys, Math.round(p.frame), round(p.value));
    onPick(new Set([added.index]));
    onKeys(added.keys);
  };
  const path = sampled(shown)
    .map(([f, v], n, all) =>
      Number.isFinite(v) ? `${Number.isFinite(all[n - 1]?.[1] ?? NaN) ? 'L' : 'M'}${x(f).toFixed(1)} ${y(v).toFixed(1)}` : '',
    )
    .join('');
  const help = keys ? `: ${String(keys.length)} keys, ${String(picked.size)} picked; arrow keys move what is picked, Delete takes it` : '';
  return (
    <Box
      sx={{ border: `1px solid ${c.line}`, borderRadius: 1.5, bgcolor: c.page, outlineOffset: 2 }}
      tabIndex={keys ? 0 : undefined}
      role="group"
      aria-label={`${title} over the shot${help}`}
      onKeyDown={onKeyDown}
      data-testid="move-curve"
    >
      <svg
        ref={svg}
        viewBox={`0 0 ${String(WIDTH)} ${String(HEIGHT)}`}
        style={{ display: 'block', width: '100%', touchAction: 'none', cursor: keys ? 'crosshair' : 'default' }}
        onPointerDown={drag.takeBox}
        onPointerMove={drag.onMove}
        onPointerUp={drag.onUp}
        onDoubleClick={addKey}
      >
        <g stroke={c.line} fontSize={11} fontFamily="JetBrains Mono Variable, monospace">
          {rows.map((v) => (
            <g key={v}>
              <path d={`M${String(PLOT.left)} ${y(v).toFixed(1)}H${String(PLOT.right)}`} />
              <text x={PLOT.left - 10} y={y(v) + 4} textAnchor="end" stroke="none" fill={c.dim}>
                {formatQuantity(v, unit, { digits: 3 })}
              </text>
            </g>
          ))}
          {frameTicks(x, 13).map((f) => (
            <g key={f}>
              <path d={`M${x(f).toFixed(1)} ${String(PLOT.top)}V${String(PLOT.bottom)}`} strokeOpacity={0.5} />
              <text x={x(f)} y={PLOT.bottom + 17} textAnchor="middle" stroke="none" fill={c.dim}>
                {f}
              </text>
            </g>
          ))}
        </g>
        {now !== null && now >= first && now <= last && (
          <path d={`M${x(now).toFixed(1)} ${String(PLOT.top)}V${String(PLOT.bottom)}`} stroke={c.selected} strokeWidth={1.2} />
        )}
        <path d={path} fill="none" stroke={c.fresh} strokeWidth={2} />
        {drag.box && (
          <rect
            x={Math.min(...drag.box.map((p) => x(p.frame)))}
            y={Math.min(...drag.box.map((p) => y(p.value)))}
            width={Math.abs(x(drag.box[0].frame) - x(drag.box[1].frame))}
            height={Math.abs(y(drag.box[0].value) - y(drag.box[1].value))}
            fill={c.selected}
            fillOpacity={0.12}
            stroke={c.selected}
          />
        )}
        {(shown ?? []).map((_k, n) => (
          <CurveKey
            key={n}
            keys={shown ?? []}
            n={n}
            picked={chosen.has(n)}
            alone={chosen.size === 1 && chosen.has(n)}
            x={x}
            y={y}
            onTake={(e) => drag.takeKeys(e, n)}
            onTakeSlope={(e, side) => drag.takeSlope(e, n, side)}
          />
        ))}
      </svg>
    </Box>
  );
}
