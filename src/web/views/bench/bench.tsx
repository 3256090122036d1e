import Box from '@mui/material/Box';
import { type ReactElement, Suspense, lazy, useCallback, useEffect, useMemo, useState } from 'react';
import { CHANNEL_LOOK, type LookChannel, isTint } from '#core/look';
import type { Path } from '#core/shot';
import type { ShotDto, VariantDto } from '#protocol';
import { navigate, say, useRoute, useSheet, useSketchLife, useStateOf } from '#web/state';
import { Loading } from '#web/ui';
import { useBenchCommands } from './bench-commands';
import { BenchContext } from './bench-context';
import { useSecondsLeft } from './costs/use-predicted-left';
import { FindingsDrawer } from './findings/findings-drawer';
import { FrameStrip } from './frames/frame-strip';
import { usePlayback } from './frames/playback';
import { BenchHeader } from './header';
import { MoveDialog } from './moves/move-dialog';
import type { MovingField } from './moves/moves';
import { frameOf, useShown } from './runs/shown-run';
import { Board } from './sheet/board';
import { ImportDialog } from './sheet/import-geometry';
import { useBenchState } from './use-bench-state';
import { Workspace } from './view/workspace';

const CompareView = lazy(() => import('./compare/compare-view').then((m) => ({ default: m.CompareView })));
const TryThree = lazy(() => import('./compare/try-three').then((m) => ({ default: m.TryThree })));

const STRIP = 132;

const isChannel = (name: string | null): name is LookChannel => name !== null && name in CHANNEL_LOOK;

export function Bench({ shot, variant }: { shot: ShotDto; variant: VariantDto }): ReactElement {
  const route = useRoute();
  const settings = useSheet((s) => s.settings);
  const fields = useSheet((s) => s.fields);
  useSketchLife(shot.id, shot.slug);
  const [findingsOpen, setFindingsOpen] = useState(false);
  const [trying, setTrying] = useState<Path | null>(null);
  const [moving, setMoving] = useState<MovingField | null>(null);
  const shown = useShown(shot, variant.id, route.run);
  const bench = useBenchState(shot, variant, shown, { tryThree: setTrying, makeMove: setMoving });
  const { run, frames, stored } = shown;
  const frame = frameOf(shown, route.frame);
  const channel: LookChannel = isChannel(route.channel) ? route.channel : 'density';
  const goTo = useCallback((f: number | null) => navigate({ frame: f }, { replace: true }), []);
  const playback = usePlayback({ run: run?.id ?? null, frame, channel, stored, framesPerSecond: fields.framesPerSecond, goTo });
  const state = useStateOf(shot, run, settings, fields);
  useBenchCommands(bench, frame, (f) => {
    setFindingsOpen(true);
    goTo(f);
  });
  useEffect(() => {
    if (shown.error) say('error', `The run cannot be shown: ${shown.error.message}`);
  }, [shown.error]);

  const { predictor, predicted, findings } = bench;
  const ofRun = useMemo(() => (run && run.rung !== 'sketch' ? predictor.ofPlan(run.plan) : null), [predictor, run]);
  const secondsLeft = useSecondsLeft(run, frames, ofRun);
  const ghosts = useMemo(() => {
    const list = ofRun ?? (run ? null : predicted.final);
    return new Map((list?.frames ?? []).flatMap((f) => (f.seconds === null ? [] : [[f.frame, f.seconds] as const])));
  }, [ofRun, run, predicted.final]);
  const notches = useMemo(() => new Set(findings.flatMap((f) => f.frames?.list ?? [])), [findings]);
  const toggleFindings = useCallback(() => setFindingsOpen((o) => !o), []);

  const other = shot.runs.find((r) => r.id === route.with) ?? null;
  const main =
    trying !== null ? (
      <TryThree path={trying} onClose={() => setTrying(null)} />
    ) : other !== null && run !== null ? (
      <CompareView other={other} frame={frame} channel={isTint(channel) ? 'density' : channel} moving={playback.playing} />
    ) : (
      <Workspace frame={frame} channel={channel} playing={playback.playing} state={state} secondsLeft={secondsLeft} />
    );
  return (
    <BenchContext.Provider value={bench}>
      <Box sx={{ height: '100%', display: 'grid', gridTemplateRows: '52px minmax(0, 1fr)' }}>
        <BenchHeader findingsOpen={findingsOpen} onFindings={toggleFindings} />
        <Box sx={{ display: 'grid', gridTemplateColumns: '344px minmax(0, 1fr)', minHeight: 0 }}>
          <Board />
          <Box
            sx={{
              display: 'grid',
              gridTemplateRows: `minmax(0, 1fr) ${String(STRIP)}px`,
              minWidth: 0,
              minHeight: 0,
              position: 'relative',
            }}
          >
            <Suspense fallback={<Loading what="Loading" />}>{main}</Suspense>
            {findingsOpen && (
              <Box
                sx={{ position: 'absolute', inset: `0 0 ${String(STRIP)}px 0`, pointerEvents: 'none', '& > *': { pointerEvents: 'auto' } }}
              >
                <FindingsDrawer onClose={toggleFindings} />
              </Box>
            )}
            <ImportDialog />
            {moving && <MoveDialog field={moving} onClose={() => setMoving(null)} />}
            <FrameStrip
              fields={fields}
              run={run}
              frames={frames}
              frame={frame}
              state={run?.rung === 'sketch' ? 'fresh' : state.state}
              playback={playback}
              predicted={ghosts}
              notches={notches}
              goTo={goTo}
            />
          </Box>
        </Box>
      </Box>
    </BenchContext.Provider>
  );
}
