import Box from '@mui/material/Box';
import { type ReactElement, Suspense, lazy, useCallback, useEffect, useMemo, useState } from 'react';
import { findForSheet } from '#core/checks';
import { CHANNEL_LOOK, type LookChannel, isTint } from '#core/look';
import { type Path, type Rung, settingsSchema } from '#core/shot';
import type { ShotDto, VariantDto } from '#protocol';
import { commands } from '#web/commands';
import { navigate, say, usePredictor, useRoute, useSheet, useSketchLife, useStateOf } from '#web/state';
import { Loading } from '#web/ui';
import { BenchContext, type BenchState } from './bench-context';
import { Board } from './sheet/board';
import { FindingsDrawer } from './findings/findings-drawer';
import { FrameStrip } from './frames/frame-strip';
import { BenchHeader } from './header';
import { ImportDialog, pickGeometry } from './sheet/import-geometry';
import { addItem } from './sheet/items';
import { MoveDialog } from './moves/move-dialog';
import type { MovingField } from './moves/moves';
import { usePlayback } from './frames/playback';
import { frameOf, useShown } from './runs/shown-run';
import { useSecondsLeft } from './costs/use-predicted-left';
import { Workspace } from './view/workspace';

const CompareView = lazy(() => import('./compare/compare-view').then((m) => ({ default: m.CompareView })));
const TryThree = lazy(() => import('./compare/try-three').then((m) => ({ default: m.TryThree })));

const isChannel = (name: string | null): name is LookChannel => name !== null && name in CHANNEL_LOOK;

export function Bench({ shot, variant }: { shot: ShotDto; variant: VariantDto }): ReactElement {
  const route = useRoute();
  const settings = useSheet((s) => s.settings);
  const fields = useSheet((s) => s.fields);
  useSketchLife(shot.id, shot.slug);
  const shown = useShown(shot, variant.id, route.run);
  const { run, frames, stored } = shown;
  const frame = frameOf(shown, route.frame);
  const channel: LookChannel = isChannel(route.channel) ? route.channel : 'density';
  const goTo = useCallback((f: number | null) => {
    navigate({ frame: f }, { replace: true });
  }, []);
  const playback = usePlayback({ run: run?.id ?? null, frame, channel, stored, framesPerSecond: fields.framesPerSecond, goTo });
  const [findingsOpen, setFindingsOpen] = useState(false);
  const [trying, setTrying] = useState<Path | null>(null);
  const [moving, setMoving] = useState<MovingField | null>(null);
  const state = useStateOf(shot, run, settings, fields);

  const predictor = usePredictor(shot, fields);
  const predicted = useMemo(
    () => ({ test: predictor.of(settings, 'test'), final: predictor.of(settings, 'final') }),
    [predictor, settings],
  );
  const ofRun = useMemo(() => (run && run.rung !== 'sketch' ? predictor.ofPlan(run.plan) : null), [predictor, run]);
  const secondsLeft = useSecondsLeft(run, frames, ofRun);
  const spent = useMemo(
    () => ({ seconds: shot.runs.reduce((n, r) => n + r.seconds, 0), bytes: shot.runs.reduce((n, r) => n + r.bytes, 0) }),
    [shot.runs],
  );
  const used = shot.variants.find((v) => v.id === run?.variantId)?.settings ?? null;
  const rung: Rung = run?.rung ?? 'final';
  const findings = useMemo(() => {
    const base = run?.rung === 'sketch' ? settings : used;
    return findForSheet({
      shot: fields,
      settings,
      rung,
      run: run && base && frames.length > 0 ? { plan: run.plan, settings: base, reports: frames.map((f) => f.report) } : null,
      prediction: predicted.final,
      spent,
    });
  }, [fields, settings, rung, run, used, frames, predicted.final, spent]);

  const toggleFindings = useCallback(() => {
    setFindingsOpen((o) => !o);
  }, []);
  const ghosts = useMemo(() => {
    const list = ofRun ?? (run ? null : predicted.final);
    return new Map((list?.frames ?? []).flatMap((f) => (f.seconds === null ? [] : [[f.frame, f.seconds] as const])));
  }, [ofRun, run, predicted.final]);
  const notches = useMemo(() => new Set(findings.flatMap((f) => f.frames?.list ?? [])), [findings]);
  const starts = useMemo(
    () => [...new Set(findings.flatMap((f) => (f.frames ? [f.frames.from, f.frames.to] : [])))].sort((a, b) => a - b),
    [findings],
  );

  useEffect(() => {
    const jump = (by: 1 | -1): void => {
      const at = frame ?? -Infinity;
      const next = by === 1 ? (starts.find((f) => f > at) ?? starts[0]) : (starts.findLast((f) => f < at) ?? starts[starts.length - 1]);
      if (next === undefined) {
        say('info', 'No finding is about certain frames.');
        return;
      }
      setFindingsOpen(true);
      goTo(next);
    };
    const index = shot.runs.findIndex((r) => r.id === run?.id);
    const previous = shot.runs.slice(0, Math.max(0, index < 0 ? shot.runs.length : index)).findLast((r) => r.framesDone > 0 && !r.freed);
    return commands.register([
      {
        id: 'finding-back',
        title: 'Finding before',
        keys: '[',
        run: () => {
          jump(-1);
        },
      },
      {
        id: 'finding-on',
        title: 'Finding after',
        keys: ']',
        run: () => {
          jump(1);
        },
      },
      {
        id: 'compare',
        title: 'Compare with the previous run, or end comparing',
        keys: 'c',
        run: () => {
          if (route.with !== null) navigate({ with: null });
          else if (previous) navigate({ with: previous.id });
          else say('info', 'There is no earlier run to compare with.');
        },
      },
      {
        id: 'add-source',
        title: 'Add a source',
        keys: null,
        run: () => {
          addItem('sources');
        },
      },
      {
        id: 'add-solid',
        title: 'Add a solid',
        keys: null,
        run: () => {
          addItem('solids');
        },
      },
      {
        id: 'import-geometry',
        title: 'Import a mesh or a signed distance',
        keys: null,
        run: () => {
          pickGeometry('solids');
        },
      },
      {
        id: 'add-turbulence',
        title: settings.forces.turbulence ? 'Remove the turbulence field' : 'Add a turbulence field',
        keys: null,
        run: () => {
          useSheet.getState().edit((s) => ({
            ...s,
            forces: {
              ...s.forces,
              turbulence: s.forces.turbulence ? null : settingsSchema.parse({ forces: { turbulence: {} } }).forces.turbulence,
            },
          }));
          navigate({ group: 'forces' }, { replace: true });
        },
      },
    ]);
  }, [frame, starts, goTo, shot.runs, run?.id, route.with, settings.forces.turbulence]);

  useEffect(() => {
    if (shown.error) say('error', `The run cannot be shown: ${shown.error.message}`);
  }, [shown.error]);

  const bench = useMemo(
    (): BenchState => ({ shot, variant, shown, predictor, predicted, spent, findings, tryThree: setTrying, makeMove: setMoving }),
    [shot, variant, shown, predictor, predicted, spent, findings],
  );
  const other = shot.runs.find((r) => r.id === route.with) ?? null;
  return (
    <BenchContext.Provider value={bench}>
      <Box sx={{ height: '100%', display: 'grid', gridTemplateRows: '52px minmax(0, 1fr)' }}>
        <BenchHeader findingsOpen={findingsOpen} onFindings={toggleFindings} />
        <Box sx={{ display: 'grid', gridTemplateColumns: '344px minmax(0, 1fr)', minHeight: 0 }}>
          <Board />
          <Box sx={{ display: 'grid', gridTemplateRows: 'minmax(0, 1fr) 132px', minWidth: 0, minHeight: 0, position: 'relative' }}>
            <Suspense fallback={<Loading what="Loading" />}>
              {trying !== null ? (
                <TryThree
                  path={trying}
                  onClose={() => {
                    setTrying(null);
                  }}
                />
              ) : other !== null && run !== null ? (
                <CompareView other={other} frame={frame} channel={isTint(channel) ? 'density' : channel} moving={playback.playing} />
              ) : (
                <Workspace frame={frame} channel={channel} playing={playback.playing} state={state} secondsLeft={secondsLeft} />
              )}
            </Suspense>
            {findingsOpen && (
              <Box sx={{ position: 'absolute', inset: '0 0 132px 0', pointerEvents: 'none', '& > *': { pointerEvents: 'auto' } }}>
                <FindingsDrawer onClose={toggleFindings} />
              </Box>
            )}
            <ImportDialog />
            {moving && (
              <MoveDialog
                field={moving}
                onClose={() => {
                  setMoving(null);
                }}
              />
            )}
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
