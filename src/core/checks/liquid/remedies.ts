import type { LiquidSolve } from '#core/shot';
import { formatQuantity } from '#core/units';
import type { Remedy } from '../finding';

/** What helps where particles are crowded together faster than they spread: sooner, and in shorter steps. */
export function spreadSooner({ matter, stepping }: LiquidSolve): Remedy[] {
  const { volumeTime } = matter;
  const shorter = Number(Math.max(0.01, volumeTime / 3).toPrecision(2));
  const cfl = Number(Math.max(0.5, stepping.cfl / 2).toPrecision(2));
  return [
    ...(shorter < volumeTime
      ? [
          {
            title: `Volume back in ${formatQuantity(volumeTime, 'second')} → ${formatQuantity(shorter, 'second')}`,
            edits: [{ path: 'matter.volumeTime', value: shorter }],
          },
        ]
      : []),
    ...(cfl < stepping.cfl
      ? [{ title: `CFL number ${String(stepping.cfl)} → ${String(cfl)}`, edits: [{ path: 'stepping.cfl', value: cfl }] }]
      : []),
  ];
}
