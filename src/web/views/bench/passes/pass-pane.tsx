import { isSolveKind } from '#core/shot';
import Box from '@mui/material/Box';
import { type ReactElement, type ReactNode, useCallback, useMemo } from 'react';
import { listFrames } from '#core/pass';
import { definitionOf } from '#core/passes';
import { formatBytes, formatSeconds } from '#core/units';
import type { PassFrameDto, PassRunDto, ShotDto } from '#protocol';
import { type PassState, asPassRun, navigate, usePassRun, usePassSketch, usePassSketchLife, useRoute, useSheet } from '#web/state';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { ArrivingNote } from '../frames/arriving-note';
import { FrameStrip } from '../frames/frame-strip';
import { LateFrame } from '../frames/late-frame';
import { paceUntil } from '../frames/until-frame';
import { usePlayback } from '../frames/playback';
import { PANE } from '../pane-layout';
import { PassBar } from './pass-bar';
import { SketchBar } from './sketch-bar';
import { VIEWS } from './views';

/** The run of a pass that is looked at: the one in the address, else the one that says how the pass stands. */
function shownRun(shot: ShotDto, pass: PassState, wanted: string | null): PassRunDto | null {
  const own = shot.passRuns.filter((r) => r.passId === pass.id && r.kind === pass.kind);
  return own.find((r) => r.id === wanted) ?? own.find((r) => r.id === pass.run?.id) ?? null;
}

const NOTHING: ReadonlySet<number> = new Set();
const NO_GHOSTS: ReadonlyMap<number, number> = new Map();

/** A pass's picture as its kind shows it, what its frame holds, and its frames under it. */
export function PassPane({ pass, children }: { pass: PassState; children: ReactNode }): ReactElement | null {
  const { shot } = useBench();
  const route = useRoute();
  const fields = useSheet((s) => s.fields);
  const sketch = usePassSketch();
  usePassSketchLife(shot, pass.id);
  const sketching = sketch.on && sketch.pass === pass.id;
  const kept = shownRun(shot, pass, route.run);
  const run = useMemo(() => (sketching ? asPassRun(sketch, shot, pass.id) : kept), [sketching, sketch, shot, pass.id, kept]);
  const detail = usePassRun(sketching ? null : (run?.id ?? null)).data;
  const given = sketching ? sketch.frames : detail?.frames;
  const frames = useMemo(() => [...(given ?? [])].sort((a, b) => a.frame - b.frame), [given]);
  const stored = useMemo(() => new Set(frames.filter((f) => f.stored).map((f) => f.frame)), [frames]);
  const { frame: wanted } = route;
  // The wanted one, else the nearest before it that there is: a pass may keep fewer frames, or not have come so far yet.
  const frame = frames.findLast((f) => f.stored && (wanted === null || f.frame <= wanted))?.frame ?? wanted;
  const goTo = useCallback((f: number | null) => navigate({ frame: f }, { replace: true }), []);
  const view = isSolveKind(pass.kind) ? null : VIEWS[pass.kind];
  const channel = view?.channelOf(run, route.channel) ?? 'density';
  const playback = usePlayback({
    run: run?.id ?? null,
    frame,
    ready: (f) => run === null || view === null || view.isReady(run.id, f, channel),
    stored,
    framesPerSecond: fields.framesPerSecond,
    goTo,
  });
  if (!view) return null;
  const shown = frames.find((f) => f.frame === frame) ?? null;
  const span = sketching ? sketch.job?.whole : run?.plan.frames;
  const range = span ? { firstFrame: span.first, lastFrame: span.last, preRoll: 0 } : null;
  return (
    <Box sx={PANE}>
      <Box sx={{ position: 'relative', minWidth: 0, minHeight: 0 }}>
        <view.Picture run={run} frame={frame} stored={stored} channel={channel} moving={playback.playing} />
        {sketching ? <SketchBar sketch={sketch} frame={wanted} /> : <PassBar pass={pass} run={run} />}
        {run && !sketching && (
          <LateFrame
            run={run}
            frames={listFrames(run.plan.frames)}
            stored={stored}
            wanted={wanted}
            order={definitionOf(run.kind).order}
            seconds={paceUntil(frames, listFrames(run.plan.frames), stored, wanted)}
          />
        )}
        <ArrivingNote />
        {shown && run && <Facts pass={pass} run={run} frame={shown} />}
      </Box>
      {children}
      <FrameStrip
        fields={fields}
        range={range}
        frames={frames}
        frame={frame}
        state={sketching ? 'fresh' : run?.id === pass.run?.id ? pass.state : 'stale'}
        playback={playback}
        predicted={NO_GHOSTS}
        notches={NOTHING}
        goTo={goTo}
      />
    </Box>
  );
}

/** What the frame holds; or why nothing is seen of it. */
function Facts({ pass, run, frame }: { pass: PassState; run: PassRunDto; frame: PassFrameDto }): ReactElement {
  const c = useColours();
  const definition = definitionOf(run.kind);
  const nothing = definition.nothing(frame.report);
  return (
    <Box
      data-testid="pass-facts"
      sx={{
        position: 'absolute',
        left: 12,
        bottom: 12,
        zIndex: 2,
        bgcolor: c.panel,
        border: `1px solid ${nothing === null ? c.line : c.warning}`,
        borderRadius: 1.5,
        px: 1.25,
        py: 0.75,
        fontSize: 12,
        maxWidth: 'calc(100% - 170px)',
      }}
    >
      {nothing !== null && (
        <Box role="status" sx={{ mb: 0.5, fontSize: 12.5 }}>
          Nothing is seen of {pass.name}. {nothing}
        </Box>
      )}
      <Box className="mono" sx={{ whiteSpace: 'nowrap' }}>
        {definition.line(frame.report)} · {formatSeconds(frame.report.totalSeconds)}
        {frame.bytes > 0 && ` · ${formatBytes(frame.bytes)}`}
      </Box>
    </Box>
  );
}
