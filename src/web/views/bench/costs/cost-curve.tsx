import Box from '@mui/material/Box';
import { scaleLinear, scaleLog } from 'd3-scale';
import { type KeyboardEvent, type PointerEvent, type ReactElement, useDeferredValue, useMemo, useRef, useState } from 'react';
import { putAtPath, resolvePlan, type SolveSettings, solveSchema, valueAtPath } from '#core/shot';
import { formatQuantity, formatSeconds, type Unit } from '#core/units';
import { useSheet, useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';

interface CostCurveProps {
  readonly title: string;
  readonly path: readonly string[];
  readonly unit: Unit;
  /** Value at the left and at the right end, as factors on the present one. */
  readonly span: readonly [number, number];
  /** Value to draw from when the setting is "none". */
  readonly fallback?: (settings: SolveSettings) => number;
}

const POINTS = 13;
const [WIDTH, HEIGHT] = [316, 122];
const PLOT = { left: 46, right: 306, top: 14, bottom: 98 } as const;

/** For the narrow axis: `1.9 h` where `1 h 56 min` would be cut. */
const axisTime = (seconds: number): string => (seconds >= 3600 ? `${(seconds / 3600).toFixed(1)} h` : formatSeconds(seconds));

const short = (v: number): number => Number(v.toPrecision(3));

/** Predicted time of a Final over a setting's range, with its range and the budget; the point can be dragged to where it meets the budget. */
export function CostCurve({ title, path, unit, span, fallback }: CostCurveProps): ReactElement | null {
  const c = useColours();
  const { predictor, spent } = useBench();
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const edit = useSheet((s) => s.editSolve);
  const svg = useRef<SVGSVGElement>(null);
  const [dragged, setDragged] = useState<number | null>(null);
  // The range stands still while the point is dragged.
  const given = valueAtPath(settings, path);
  const value = typeof given === 'number' ? given : (fallback?.(settings) ?? 1);
  const [anchor, setAnchor] = useState(value);
  const [from, to] = [anchor * span[0], anchor * span[1]];
  const outside = value > Math.max(from, to) || value < Math.min(from, to);
  if (outside && dragged === null) setAnchor(value);
  const late = useDeferredValue(settings);
  const curve = useMemo(() => {
    const at = (v: number): { v: number; low: number; likely: number; high: number } | null => {
      const result = solveSchema.safeParse(putAtPath(late, path, v));
      if (!result.success) return null;
      const time = predictor.ofPlan(resolvePlan(fields, result.data, 'final'))?.time;
      return time ? { v, ...time } : null;
    };
    const points = Array.from({ length: POINTS }, (_n, n) => at(from * (to / from) ** (n / (POINTS - 1)))).filter((p) => p !== null);
    return { points, at };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- path is a constant of the place where it stands
  }, [late, predictor, fields, from, to]);

  const { points, at } = curve;
  if (points.length < 3) return null;
  const shown = dragged ?? value;
  const now = at(shown);
  const left = Math.max(0, fields.budgets.time - spent.seconds);
  const top = Math.max((now?.likely ?? 0) * 2.2, Math.min(left * 1.15, (points[points.length - 1]?.likely ?? 1) * 1.1), 1);
  const x = scaleLog([from, to], [PLOT.left, PLOT.right]).clamp(true);
  const y = scaleLinear([0, top * 1.05], [PLOT.bottom, PLOT.top - 0.05 * (PLOT.bottom - PLOT.top)]).clamp(true);
  const line = points.map((p, n) => `${n === 0 ? 'M' : 'L'}${x(p.v).toFixed(1)} ${y(p.likely).toFixed(1)}`).join('');
  const band = [...points.map((p) => [x(p.v), y(p.high)]), ...[...points].reverse().map((p) => [x(p.v), y(p.low)])]
    .map(([a, b]) => `${(a ?? 0).toFixed(1)},${(b ?? 0).toFixed(1)}`)
    .join(' ');
  const put = (v: number): void => {
    edit((s) => putAtPath(s, path, short(v)) as SolveSettings);
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
      <Box sx={{ color: c.dim, fontSize: 11, px: 1, pt: 0.5 }}>
        The Final's time over {/^[A-Z][a-z]/.test(title) ? title.charAt(0).toLowerCase() + title.slice(1) : title}
      </Box>
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
