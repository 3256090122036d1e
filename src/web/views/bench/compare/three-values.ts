import type { FieldMeta } from '#core/shot';

const round = (v: number): number => Number(v.toPrecision(3));

/** Half, as it is, and twice for what goes by ratio or is far from 0; else a step of a tenth of what may be set to each side. */
export function threeValues(
  value: number,
  { min = -Infinity, max = Infinity, step = 0.1 }: Pick<FieldMeta, 'min' | 'max' | 'step'>,
  integer: boolean,
): [number, number, number] {
  const spread =
    value !== 0 ? Math.max(Math.abs(value), integer ? 2 : 0) : Math.max(step * 10, Number.isFinite(max - min) ? (max - min) / 10 : 0);
  const [low, high] = value !== 0 ? [value - spread / 2, value + spread] : [value - spread, value + spread];
  const shape = (v: number): number => {
    const r = integer ? Math.round(v) : round(v);
    return Math.min(max, Math.max(min, r));
  };
  const [a, b] = [shape(Math.min(low, high)), shape(Math.max(low, high))];
  // At the end of the range the other two go on to one side.
  if (a >= value) return [value, shape(value + spread / 2), shape(value + spread)];
  if (b <= value) return [shape(value - spread), shape(value - spread / 2), value];
  return [a, value, b];
}
