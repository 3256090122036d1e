import type { ReactElement } from 'react';
import type { CacheState } from '#protocol';
import { useColours } from './use-colours';

export const stateTitle: Readonly<Record<CacheState, string>> = {
  fresh: 'fresh',
  stale: 'stale',
  partial: 'partial',
  missing: 'missing',
  damaged: 'damaged',
  failed: 'failed',
};

/** Filled, hatched, half, hollow, broken, crossed: a state is never colour alone. */
export function StateGlyph({ state, size = 12 }: { state: CacheState; size?: number }): ReactElement {
  const c = useColours();
  const colour = { fresh: c.fresh, stale: c.warning, partial: c.fresh, missing: c.dim, damaged: c.failed, failed: c.failed }[state];
  return (
    <svg width={size} height={size} viewBox="0 0 12 12" role="img" aria-label={stateTitle[state]} style={{ flexShrink: 0 }}>
      <rect x={1} y={1} width={10} height={10} rx={2} fill={state === 'fresh' ? colour : 'none'} stroke={colour} strokeWidth={1.5} />
      {state === 'partial' && <rect x={1} y={6} width={10} height={5} fill={colour} />}
      {state === 'stale' && <path d="M1 7l6-6M3 11l8-8M7 11l4-4" stroke={colour} strokeWidth={1.4} />}
      {state === 'damaged' && <path d="M6 1L4.5 5L7.5 7L6 11" stroke={colour} strokeWidth={1.6} fill="none" />}
      {state === 'failed' && <path d="M3 3l6 6M9 3l-6 6" stroke={colour} strokeWidth={1.5} />}
    </svg>
  );
}
