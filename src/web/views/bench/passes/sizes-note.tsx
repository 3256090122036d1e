import type { ReactElement } from 'react';
import { smallestOf } from '#core/passes';
import type { PassSettings } from '#core/shot';
import { formatQuantity } from '#core/units';
import type { PassState } from '#web/state';
import { useColours } from '#web/ui';

/** Sizes of a pass that are set in voxels of what it reads, in metres at each rung. */
export function SizesNote({ pass, entry }: { pass: PassState; entry: PassSettings }): ReactElement | null {
  const c = useColours();
  if (entry.kind !== 'detail' && entry.kind !== 'held') return null;
  const metres = (v: number): string => formatQuantity(v, 'metre', { digits: 2 });
  const rows = (['test', 'final'] as const).flatMap((rung) => {
    const own = pass.voxelSize[rung];
    if (own === null) return [];
    const base = own * entry.settings.factor;
    const title = rung === 'test' ? 'Test' : 'Final';
    if (entry.kind === 'held') return [`${title}: voxels of ${metres(own)}, motion above ${metres(entry.settings.length * base)} held`];
    return [
      `${title}: voxels of ${metres(own)}, eddies of ${metres(smallestOf(entry.settings, entry.settings.factor) * base)} to ${metres(entry.settings.largest * base)}`,
    ];
  });
  return (
    <div role="note" aria-label="Sizes" style={{ color: c.dim, fontSize: 12.5, paddingBottom: 4 }}>
      {rows.map((r) => (
        <div key={r}>{r}</div>
      ))}
    </div>
  );
}
