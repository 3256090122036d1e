import { isLiquid, solveSchema } from '#core/shot';
import { useCommands } from '#web/commands';
import { navigate, say, useRoute, useSheet, useSolve } from '#web/state';
import type { BenchState } from './bench-context';
import { pickGeometry } from './sheet/import-geometry';
import { addItem } from './sheet/items';

/** The next or the previous frame at which a finding begins or ends; after the last comes the first. */
function frameBeside(starts: readonly number[], frame: number | null, by: 1 | -1): number | undefined {
  const at = frame ?? -Infinity;
  return by === 1 ? (starts.find((f) => f > at) ?? starts[0]) : (starts.findLast((f) => f < at) ?? starts[starts.length - 1]);
}

function toggleTurbulence(): void {
  useSheet.getState().editSolve((s) => {
    if (isLiquid(s)) return s;
    const turbulence = s.forces.turbulence ? null : solveSchema.parse({ forces: { turbulence: {} } }).forces.turbulence;
    return { ...s, forces: { ...s.forces, turbulence } };
  });
  navigate({ group: 'forces' }, { replace: true });
}

/** Commands of the Bench that belong to no part of it alone; `goToFinding` opens the findings, and goes to a frame if one is given. */
export function useBenchCommands(bench: BenchState, frame: number | null, goToFinding: (frame: number | undefined) => void): void {
  const { shot, shown, findings } = bench;
  const comparing = useRoute().with !== null;
  const turbulence = useSolve((s) => (isLiquid(s) ? null : s.forces.turbulence !== null));
  const jump = (by: 1 | -1): void => {
    const starts = new Set(findings.flatMap((f) => (f.frames ? [f.frames.from, f.frames.to] : [])));
    const next = frameBeside(
      [...starts].sort((a, b) => a - b),
      frame,
      by,
    );
    if (next === undefined) say('info', 'No finding is about certain frames.');
    goToFinding(next);
  };
  const compare = (): void => {
    const index = shot.runs.findIndex((r) => r.id === shown.run?.id);
    const earlier = shot.runs.slice(0, Math.max(0, index < 0 ? shot.runs.length : index));
    const previous = earlier.findLast((r) => r.framesDone > 0 && !r.freed);
    if (comparing) navigate({ with: null });
    else if (previous) navigate({ with: previous.id });
    else say('info', 'There is no earlier run to compare with.');
  };
  useCommands([
    { id: 'finding-back', title: 'Finding before', keys: '[', run: () => jump(-1) },
    { id: 'finding-on', title: 'Finding after', keys: ']', run: () => jump(1) },
    { id: 'compare', title: 'Compare with the previous run, or end comparing', keys: 'c', run: compare },
    { id: 'add-source', title: 'Add a source', keys: null, run: () => addItem('sources') },
    { id: 'add-solid', title: 'Add a solid', keys: null, run: () => addItem('solids') },
    { id: 'import-geometry', title: 'Import a mesh or a signed distance', keys: null, run: () => pickGeometry('solids') },
    {
      id: 'add-turbulence',
      title: turbulence ? 'Remove the turbulence field' : 'Add a turbulence field',
      keys: null,
      run: toggleTurbulence,
    },
  ]);
}
