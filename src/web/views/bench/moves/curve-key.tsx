import type { ScaleLinear } from 'd3-scale';
import type { PointerEvent, ReactElement } from 'react';
import type { Key } from '#core/moves';
import { useColours } from '#web/ui';
import { slopeOf } from './key-edits';

/** Handles of a slope stand this far from their key, in the drawing's units. */
const ARM = 46;
const SIDES = ['arrive', 'leave'] as const;
type Side = (typeof SIDES)[number];

interface CurveKeyProps {
  readonly keys: readonly Key[];
  readonly n: number;
  readonly picked: boolean;
  /** Its slopes can be taken. */
  readonly alone: boolean;
  readonly x: ScaleLinear<number, number>;
  readonly y: ScaleLinear<number, number>;
  readonly onTake: (event: PointerEvent) => void;
  readonly onTakeSlope: (event: PointerEvent, side: Side) => void;
}

/** A key on its curve, and the handles of its slopes where the curve is smooth beside it. */
export function CurveKey({ keys, n, picked, alone, x, y, onTake, onTakeSlope }: CurveKeyProps): ReactElement | null {
  const c = useColours();
  const k = keys[n];
  if (!k) return null;
  const [kx, ky] = [x(k.frame), y(k.value)];
  const smooth = { arrive: n > 0 && keys[n - 1]?.then === 'smooth', leave: k.then === 'smooth' && n + 1 < keys.length };
  const handle = (side: Side): ReactElement => {
    const [dx, dy] = [x(1) - x(0), (y(1) - y(0)) * slopeOf(keys, n, side)];
    const way = (side === 'leave' ? ARM : -ARM) / Math.hypot(dx, dy);
    return (
      <g key={side}>
        <path d={`M${kx.toFixed(1)} ${ky.toFixed(1)}l${(dx * way).toFixed(1)} ${(dy * way).toFixed(1)}`} stroke={c.dim} />
        <circle
          cx={kx + dx * way}
          cy={ky + dy * way}
          r={4.5}
          fill={k[side] === null ? c.page : c.dim}
          stroke={c.dim}
          style={{ cursor: 'grab' }}
          onPointerDown={(e) => {
            e.stopPropagation();
            onTakeSlope(e, side);
          }}
        />
      </g>
    );
  };
  return (
    <g>
      {alone && SIDES.filter((side) => smooth[side]).map(handle)}
      <rect
        x={kx - 5}
        y={ky - 5}
        width={10}
        height={10}
        transform={`rotate(45 ${kx.toFixed(1)} ${ky.toFixed(1)})`}
        fill={picked ? c.selected : c.raised}
        stroke={picked ? c.text : c.fresh}
        strokeWidth={1.5}
        style={{ cursor: 'move' }}
        data-key={n}
        onPointerDown={(e) => {
          e.stopPropagation();
          onTake(e);
        }}
      />
    </g>
  );
}
