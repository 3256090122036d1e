import Box from '@mui/material/Box';
import { type ReactElement, useCallback, useState } from 'react';
import type { Path } from '#core/shot';
import type { ShotDto, VariantDto } from '#protocol';
import { useRoute, useSketchLife } from '#web/state';
import { BenchContext } from './bench-context';
import { FindingsDrawer } from './findings/findings-drawer';
import { BenchHeader } from './header';
import { MoveDialog } from './moves/move-dialog';
import type { MovingField } from './moves/moves';
import { STRIP } from './pane-layout';
import { PassPane } from './passes/pass-pane';
import { PassRow } from './passes/pass-row';
import { PassSheet } from './passes/pass-sheet';
import { useShown } from './runs/shown-run';
import { Board } from './sheet/board';
import { ImportDialog } from './sheet/import-geometry';
import { SolvePane } from './solve-pane';
import { useBenchState } from './use-bench-state';

export function Bench({ shot, variant }: { shot: ShotDto; variant: VariantDto }): ReactElement {
  const route = useRoute();
  useSketchLife(shot.id, shot.slug);
  const [findingsOpen, setFindingsOpen] = useState(false);
  const [trying, setTrying] = useState<Path | null>(null);
  const [moving, setMoving] = useState<MovingField | null>(null);
  const shown = useShown(shot, variant.id, route.run);
  const bench = useBenchState(shot, variant, shown, { tryThree: setTrying, makeMove: setMoving });
  const toggleFindings = useCallback(() => setFindingsOpen((o) => !o), []);
  const over = (
    <>
      {findingsOpen && (
        <Box sx={{ position: 'absolute', inset: `0 0 ${String(STRIP)}px 0`, pointerEvents: 'none', '& > *': { pointerEvents: 'auto' } }}>
          <FindingsDrawer onClose={toggleFindings} />
        </Box>
      )}
      <ImportDialog />
      {moving && <MoveDialog field={moving} onClose={() => setMoving(null)} />}
    </>
  );
  const { pass } = bench;
  return (
    <BenchContext.Provider value={bench}>
      <Box sx={{ height: '100%', display: 'grid', gridTemplateRows: '52px auto minmax(0, 1fr)' }}>
        <BenchHeader findingsOpen={findingsOpen} onFindings={toggleFindings} />
        <PassRow />
        <Box sx={{ display: 'grid', gridTemplateColumns: '344px minmax(0, 1fr)', minHeight: 0 }}>
          {pass ? <PassSheet key={`sheet-${pass.id}`} pass={pass} /> : <Board />}
          {pass ? (
            <PassPane key={`pane-${pass.id}`} pass={pass}>
              {over}
            </PassPane>
          ) : (
            <SolvePane trying={trying} onTried={() => setTrying(null)} onFindings={() => setFindingsOpen(true)}>
              {over}
            </SolvePane>
          )}
        </Box>
      </Box>
    </BenchContext.Provider>
  );
}
