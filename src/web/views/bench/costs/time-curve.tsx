import Box from '@mui/material/Box';
import { scaleLinear, scaleLog } from 'd3-scale';
import { type KeyboardEvent, type PointerEvent, type ReactElement, useCallback, useMemo, useRef, useState } from 'react';
import { formatQuantity, formatSeconds, type Unit } from '#core/units';
import { useColours } from '#web/ui';

const POINTS = 13;
const [WIDTH, HEIGHT] = [316, 122];
const PLOT = { left: 46, right: 306, top: 14, bottom: 98 } as const;

/** For the narrow axis: `1.9 h` where `1 h 56 min` would be cut. */
const axisTime = (seconds: number): string => (seconds >= 3600 ? `${(seconds / 3600).toFixed(1)} h` : formatSeconds(seconds));

const short = (v: number): number => Number(v.toPrecision(3));

/** What time is predicted of a value; null: none is, or the value cannot be. */
export type TimeAt = (value: number) => { readonly low: number; readonly likely: number; readonly high: number } | null;

interface TimeCurveProps {
  /** What it says above. */
  readonly about: string;
  /** What the point is called. */
  readonly title: string;
  readonly unit: Unit;
  readonly value: number;
  readonly from: number;
  readonly to: number;
  /** Stands still while a hand drags. */
  readonly timeAt: TimeAt;
  /** Seconds that are left of the budget. */
  readonly left: number;
  readonly onDrag: (value: number | null) => void;
  readonly onPut: (value: number) => void;
}

/** Predicted time over a setting's range, with its range and the budget; the point can be dragged to where it meets the budget. */
export function TimeCurve({ about, title, unit, value, from, to, timeAt, left, onDrag, onPut }: TimeCurveProps): ReactElement | null {
  const c = useColours();
  const svg = useRef<SVGSVGElement>(null);
  const [dragged, setDraggedNow] = useState<number | null>(null);
  const setDragged = (v: number | null): void => {
    setDraggedNow(v);
    onDrag(v);
  };
  const at = useCallback(
    (v: number) => {
      const time = timeAt(v);
      return time && { v, ...time };
    },
    [timeAt],
  );
  const points = useMemo(
    () => Array.from({ length: POINTS }, (_n, n) => at(from * (to / from) ** (n / (POINTS - 1)))).filter((p) => p !== null),
    [at, from, to],
  );
  if (points.length < 3) return null;
  const shown = dragged ?? value;
  const now = at(shown);
  const top = Math.max((now?.likely ?? 0) * 2.2, Math.min(left * 1.15, (points[points.length - 1]?.likely ?? 1) * 1.1), 1);
  const x = scaleLog([from, to], [PLOT.left, PLOT.right]).clamp(true);
  const y = scaleLinear([0, top * 1.05], [PLOT.bottom, PLOT.top - 0.05 * (PLOT.bottom - PLOT.top)]).clamp(true);
  const line = points.map((p, n) => `${n === 0 ? 'M' : 'L'}${x(p.v).toFixed(1)} ${y(p.likely).toFixed(1)}`).join('');
  const band = [...points.map((p) => [x(p.v), y(p.high)]), ...[...points].reverse().map((p) => [x(p.v), y(p.low)])]
    .map(([a, b]) => `${(a ?? 0).toFixed(1)},${(b ?? 0).toFixed(1)}`)
    .join(' ');
  const put = (v: number): void => {
    onPut(short(v));
  };
  const valueAt = (event: PointerEvent): number => {
    const box = svg.current?.getBoundingClientRect();
    return short(x.invert(box ? ((event.clientX - box.left) / box.width) * WIDTH : 0));
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const step = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    put(shown * (to / from) ** (step / 40));
  };
  return (
    <Box
      sx={{ border: `1px solid ${c.line}`, borderRadius: 1.5, bgcolor: c.raised, mt: 0.75, overflow: 'hidden' }}
      data-testid="cost-curve"
    >
      <Box sx={{ color: c.dim, fontSize: 11, px: 1, pt: 0.5 }}>{about}</Box>
      <svg
        ref={svg}
        viewBox={`0 0 ${String(WIDTH)} ${String(HEIGHT)}`}
        style={{ display: 'block', width: '100%', touchAction: 'none', cursor: 'ew-resize' }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          setDragged(valueAt(e));
        }}
        onPointerMove={(e) => {
          if (dragged !== null) setDragged(valueAt(e));
        }}
        onPointerUp={() => {
          if (dragged !== null) put(dragged);
          setDragged(null);
        }}
      >
        <polygon points={band} fill={c.fresh} opacity={0.22} />
        <path d={line} fill="none" stroke={c.fresh} strokeWidth={2} />
        <path
          d={`M${String(PLOT.left)} ${String(PLOT.top - 4)}V${String(PLOT.bottom)}H${String(PLOT.right)}`}
          fill="none"
          stroke={c.line}
        />
        {left < top && (
          <>
            <path d={`M${String(PLOT.left)} ${y(left).toFixed(1)}H${String(PLOT.right)}`} stroke={c.warning} strokeDasharray="4 3" />
            <text x={PLOT.left + 6} y={y(left) - 4} fontSize={10.5} fill={c.warning}>
              budget left {formatSeconds(left)}
            </text>
          </>
        )}
        <g fontSize={10.5} fill={c.dim} fontFamily="JetBrains Mono Variable, monospace">
          <text x={PLOT.left - 5} y={PLOT.top + 4} textAnchor="end">
            {axisTime(top)}
          </text>
          {now && y(now.likely) > PLOT.top + 14 && y(now.likely) < PLOT.bottom - 2 && (
            <text x={PLOT.left - 5} y={y(now.likely) + 4} textAnchor="end" fill={c.text}>
              {axisTime(now.likely)}
            </text>
          )}
          <text x={PLOT.left} y={PLOT.bottom + 14}>
            {formatQuantity(short(from), unit)}
          </text>
          <text x={PLOT.right} y={PLOT.bottom + 14} textAnchor="end">
            {formatQuantity(short(to), unit)}
          </text>
          {Math.abs(x(shown) - (PLOT.left + PLOT.right) / 2) < 90 && (
            <text x={x(shown)} y={PLOT.bottom + 14} textAnchor="middle" fill={c.text}>
              {formatQuantity(short(shown), unit)}
            </text>
          )}
        </g>
        {now && (
          <circle
            cx={x(shown)}
            cy={y(now.likely)}
            r={6}
            fill={c.selected}
            stroke={c.text}
            strokeWidth={1.5}
            tabIndex={0}
            role="slider"
            aria-label={`${title}: predicted time`}
            aria-valuenow={shown}
            aria-valuemin={Math.min(from, to)}
            aria-valuemax={Math.max(from, to)}
            aria-valuetext={`${formatQuantity(short(shown), unit)}: ${formatSeconds(now.likely)}`}
            onKeyDown={onKeyDown}
          />
        )}
      </svg>
    </Box>
  );
}
