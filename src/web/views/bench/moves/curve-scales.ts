import { type ScaleLinear, scaleLinear } from 'd3-scale';

/** The drawing, in its own units. */
export const [WIDTH, HEIGHT] = [720, 270];
export const PLOT = { left: 64, right: 706, top: 12, bottom: 244 } as const;

/** Round numbers between which all values lie, with some room. */
export function valueScale(values: readonly number[]): ScaleLinear<number, number> {
  const finite = values.filter(Number.isFinite);
  const [least, most] = finite.length > 0 ? [Math.min(...finite), Math.max(...finite)] : [0, 1];
  const span = most - least || Math.abs(most) || 1;
  const room = (most === least ? 0.5 : 0.05) * span;
  // Amounts that are never negative begin at nothing; what stands at nothing has room above.
  const low = least >= 0 ? Math.max(0, least - room) : least - room;
  const high = most <= 0 && least < 0 ? 0 : most + room;
  return scaleLinear().domain([low, high]).nice(4).range([PLOT.bottom, PLOT.top]);
}

export const frameScale = ([first, last]: readonly [number, number]): ScaleLinear<number, number> =>
  scaleLinear()
    .domain([first, Math.max(last, first + 1)])
    .range([PLOT.left, PLOT.right]);

/** Whole frames at round numbers. */
export const frameTicks = (scale: ScaleLinear<number, number>, most: number): number[] => scale.ticks(most).filter(Number.isInteger);
