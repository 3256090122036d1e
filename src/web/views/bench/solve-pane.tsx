import Box from '@mui/material/Box';
import { type ReactElement, type ReactNode, Suspense, lazy, useCallback, useEffect, useMemo } from 'react';
import { CHANNEL_LOOK, type LookChannel, isTint } from '#core/look';
import { listFrames } from '#core/pass';
import { type Path, type Plan, SOLVE, isLiquidPlan } from '#core/shot';
import { navigate, say, useRoute, useSheet, useStateOf, useSolve } from '#web/state';
import { Loading } from '#web/ui';
import { useBenchCommands } from './bench-commands';
import { useBench } from './bench-context';
import { useSecondsLeft } from './costs/use-predicted-left';
import { ArrivingNote } from './frames/arriving-note';
import { FrameStrip } from './frames/frame-strip';
import { LateFrame } from './frames/late-frame';
import { partUntil, secondsUntil } from './frames/until-frame';
import { channelsKept } from './frames/channels-kept';
import { isReady } from './frames/frame-store';
import { usePlayback } from './frames/playback';
import { frameOf } from './runs/shown-run';
import { arePointsReady } from './passes/points-store';
import { PANE, STRIP } from './pane-layout';
import { Workspace } from './view/workspace';

const CompareView = lazy(() => import('./compare/compare-view').then((m) => ({ default: m.CompareView })));
const TryThree = lazy(() => import('./compare/try-three').then((m) => ({ default: m.TryThree })));

const isChannel = (name: string | null): name is LookChannel => name !== null && name in CHANNEL_LOOK;

/** Matter in its own colours where a run carries them. */
const channelFirst = (plan: Plan | null): LookChannel => (plan && channelsKept(plan).includes('colour') ? 'colour' : 'density');

/** Above the scale bar and the button over it, pixels. */
const ABOVE_SCALE = 88;

interface SolvePaneProps {
  /** Setting of which three values are tried. */
  readonly trying: Path | null;
  readonly onTried: () => void;
  readonly onFindings: () => void;
  /** What lies over the picture. */
  readonly children: ReactNode;
}

/** The gas solve's picture, and its frames under it. */
export function SolvePane({ trying, onTried, onFindings, children }: SolvePaneProps): ReactElement {
  const bench = useBench();
  const { shot, shown, predictor, predicted, findings } = bench;
  const route = useRoute();
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const { run, frames, stored } = shown;
  const frame = frameOf(shown, route.frame);
  const channel: LookChannel = isChannel(route.channel) ? route.channel : channelFirst(run?.plan ?? null);
  const goTo = useCallback((f: number | null) => navigate({ frame: f }, { replace: true }), []);
  const playback = usePlayback({
    run: run?.id ?? null,
    frame,
    ready: (f) =>
      run === null ||
      (isLiquidPlan(run.plan)
        ? arePointsReady(run.id, f)
        : isReady(run.id, f, channel) && (!isTint(channel) || isReady(run.id, f, 'density'))),
    stored,
    framesPerSecond: fields.framesPerSecond,
    goTo,
  });
  const state = useStateOf(shot, run, settings, fields);
  useBenchCommands(bench, frame, (f) => {
    onFindings();
    if (f !== undefined) goTo(f);
  });
  useEffect(() => {
    if (shown.error) say('error', `The run cannot be shown: ${shown.error.message}`);
  }, [shown.error]);
  const ofRun = useMemo(() => (run && run.rung !== 'sketch' ? predictor.ofPlan(run.plan) : null), [predictor, run]);
  const secondsLeft = useSecondsLeft(run, frames, ofRun);
  const ghosts = useMemo(() => {
    const list = ofRun ?? (run ? null : predicted.final);
    return new Map((list?.frames ?? []).flatMap((f) => (f.seconds === null ? [] : [[f.frame, f.seconds] as const])));
  }, [ofRun, run, predicted.final]);
  const notches = useMemo(() => new Set(findings.flatMap((f) => f.frames?.list ?? [])), [findings]);
  const other = shot.runs.find((r) => r.id === route.with) ?? null;
  const main =
    trying !== null ? (
      <TryThree path={trying} onClose={onTried} />
    ) : other !== null && run !== null ? (
      <CompareView other={other} frame={frame} channel={isTint(channel) ? 'density' : channel} moving={playback.playing} />
    ) : (
      <Workspace frame={frame} channel={channel} playing={playback.playing} state={state} secondsLeft={secondsLeft} />
    );
  return (
    <Box sx={PANE}>
      <Suspense fallback={<Loading what="Loading" />}>{main}</Suspense>
      <ArrivingNote />
      {children}
      {run && run.rung !== 'sketch' && (
        <LateFrame
          run={run}
          frames={listFrames({ first: run.plan.options.firstFrame, last: run.plan.options.lastFrame, every: 1 })}
          stored={stored}
          wanted={route.frame}
          order="sequential"
          seconds={partUntil(secondsLeft, ghosts, stored, route.frame)}
          byTest={
            run.rung === 'final' && !bench.passes.find((p) => p.id === SOLVE)?.fresh.test ? secondsUntil(predicted.test, route.frame) : null
          }
          bottom={STRIP + ABOVE_SCALE}
        />
      )}
      <FrameStrip
        fields={fields}
        range={run?.plan.options ?? null}
        frames={frames}
        frame={frame}
        state={run?.rung === 'sketch' ? 'fresh' : state.state}
        playback={playback}
        predicted={ghosts}
        notches={notches}
        goTo={goTo}
      />
    </Box>
  );
}
