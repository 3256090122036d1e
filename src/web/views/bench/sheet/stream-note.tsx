import { type ReactElement, useMemo } from 'react';
import { askedByFrame, streamOf } from '#core/liquid';
import { isLiquid, isLiquidPlan, resolvePlan } from '#core/shot';
import { formatLitres, formatQuantity } from '#core/units';
import { useSheet, useSolve } from '#web/state';
import { useColours } from '#web/ui';

/** An area as it is read: square centimetres up to a square metre. */
const area = (squareMetres: number): string =>
  squareMetres < 1 ? `${String(Number((1e4 * squareMetres).toPrecision(3)))} cm²` : `${String(Number(squareMetres.toPrecision(3)))} m²`;

/** The stream of a source that emits: two of rate, speed and opening are entered; this says the third, and the litres by the last frame. */
export function StreamNote({ index }: { index: number }): ReactElement | null {
  const c = useColours();
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const solve = isLiquid(settings) ? settings : null;
  const source = solve?.sources[index];
  const total = useMemo(() => {
    if (solve === null || source?.act !== 'emits') return 0;
    const plan = resolvePlan(fields, { ...solve, sources: [{ ...source, hidden: false }] }, 'final');
    const resolved = isLiquidPlan(plan) ? plan.options.sources[0] : undefined;
    return resolved && isLiquidPlan(plan) ? askedByFrame(resolved, plan.options).reduce((a, b) => a + b, 0) : 0;
  }, [fields, solve, source]);
  if (source?.act !== 'emits') return null;
  const stream = streamOf(source.shape, source);
  const about = source.shape.kind === 'mesh' ? 'about ' : '';
  const moves = Object.keys(source.moves).length > 0 ? ' at rest' : '';
  const parts = [
    stream.direction
      ? `Opening ${about}${area(stream.opening)}, ${formatQuantity(stream.speed, 'speed', { digits: 3 })}: ${formatLitres(stream.rate, '/s')}${moves}.`
      : `On all sides: ${formatLitres(stream.rate, '/s')}${moves}.`,
    `${about === '' ? '' : 'About '}${formatLitres(total)} by frame ${String(fields.lastFrame)}.`,
  ];
  return (
    <div role="status" aria-label="Stream" className="mono" style={{ color: c.dim, fontSize: 12, padding: '2px 0 4px' }}>
      {parts.map((part) => (
        <div key={part}>{part} </div>
      ))}
    </div>
  );
}
