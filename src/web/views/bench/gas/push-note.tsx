import { isLiquid } from '#core/shot';
import type { ReactElement } from 'react';
import { pushOf } from '#core/gas';
import { formatQuantity } from '#core/units';
import { useSolve } from '#web/state';
import { useColours } from '#web/ui';

/** Slower than this nobody sees it go, m/s^2. */
const FELT = 0.02;

/** Which way heat and weight will move what a source emits. */
export function PushNote({ index }: { index: number }): ReactElement | null {
  const c = useColours();
  const solve = useSolve();
  if (isLiquid(solve)) return null;
  const source = solve.sources[index];
  const { matter } = solve;
  // What is added each second has no amount of its own.
  if (!source || source.mode === 'add') return null;
  const push = pushOf(matter, source.density ?? 0, source.heat ?? 0);
  const way = push > FELT ? 'up' : push < -FELT ? 'down' : null;
  return (
    <div role="status" aria-label="Push" style={{ color: c.dim, fontSize: 12.5, padding: '2px 0 4px' }}>
      {way ? (
        <>
          Heat and weight push it <b style={{ color: c.text }}>{way}</b> with{' '}
          <span className="mono">{formatQuantity(Math.abs(push), 'acceleration', { digits: 2 })}</span>.
        </>
      ) : (
        'Heat and weight leave it where it is.'
      )}
    </div>
  );
}
