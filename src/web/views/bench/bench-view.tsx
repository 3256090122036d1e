import Box from '@mui/material/Box';
import { type ReactElement, useCallback, useEffect, useMemo, useState } from 'react';
import type { Box3 } from '#core/geometry';
import { CHANNEL_LOOK, type LookChannel } from '#core/look';
import { defaultLimit } from '#core/shot';
import type { FrameDto, RunDto, ShotDto, VariantDto } from '#protocol';
import { navigate, say, useRoute, useRun, useSheet, useShot, useStateOf } from '#web/state';
import { Loading, Problem, useColours } from '#web/ui';
import { type SliceSetting, Viewport, type ViewportFrame } from '#web/viewport';
import { BenchHeader } from './header';
import { Board } from './board';
import { FrameStrip } from './frame-strip';
import { useFrame } from './frame-store';
import { usePlayback } from './playback';
import { RunBar } from './run-bar';
import { ViewBar } from './view-bar';
import { Readout } from './readout';

export function BenchView({ slug }: { slug: string }): ReactElement {
  const shot = useShot(slug);
  if (shot.isPending) return <Loading what="Opening the shot" />;
  if (shot.isError) {
    return (
      <Problem
        title="This shot cannot be opened"
        text={`${shot.error.message}\nGo to Shots and open another one.`}
        retry={() => void shot.refetch()}
      />
    );
  }
  return <Opened shot={shot.data} />;
}

/** Puts the variant on the sheet before anything is drawn from it. */
function Opened({ shot }: { shot: ShotDto }): ReactElement {
  const route = useRoute();
  const variant = shot.variants.find((v) => v.id === route.variant) ?? shot.variants[0];
  const open = useSheet((s) => s.open);
  const onSheet = useSheet((s) => s.variantId);
  useEffect(() => {
    if (variant) open(variant);
  }, [variant, open]);
  if (!variant) return <Problem title="This shot has no variant" text="Its file must have been changed by hand." />;
  if (onSheet !== variant.id) return <Loading what="Opening the variant" />;
  return <Bench shot={shot} variant={variant} />;
}

const isChannel = (name: string | null): name is LookChannel => name !== null && name in CHANNEL_LOOK;

/** The run that is shown: the one in the address, else the newest of the variant with frames, else the newest of it. */
function pickRun(shot: ShotDto, variantId: string, wanted: string | null): RunDto | null {
  const named = shot.runs.find((r) => r.id === wanted);
  if (named) return named;
  const own = shot.runs.filter((r) => r.variantId === variantId && !r.freed);
  return own.findLast((r) => r.framesDone > 0) ?? own[own.length - 1] ?? null;
}

function Bench({ shot, variant }: { shot: ShotDto; variant: VariantDto }): ReactElement {
  const c = useColours();
  const route = useRoute();
  const settings = useSheet((s) => s.settings);
  const run = pickRun(shot, variant.id, route.run);
  const detail = useRun(run?.id ?? null);
  const frames = useMemo(() => [...(detail.data?.frames ?? [])].sort((a: FrameDto, b: FrameDto) => a.frame - b.frame), [detail.data]);
  const stored = useMemo(() => new Set(frames.filter((f) => f.stored).map((f) => f.frame)), [frames]);
  const newest = frames.findLast((f) => f.stored)?.frame ?? null;
  // Without a frame in the address the newest one is followed while the run computes.
  const frame = route.frame ?? newest;
  const channel: LookChannel = isChannel(route.channel) ? route.channel : 'density';
  const goTo = useCallback((f: number | null) => {
    navigate({ frame: f }, { replace: true });
  }, []);
  const playback = usePlayback({ run: run?.id ?? null, frame, channel, stored, framesPerSecond: shot.fields.framesPerSecond, goTo });

  const shown = useFrame(run?.id ?? null, frame, channel, stored);
  const [slice, setSlice] = useState<SliceSetting | null>(null);
  const [sliceChannel, setSliceChannel] = useState<LookChannel>('vel');
  const sliceFrame = useFrame(slice ? (run?.id ?? null) : null, frame, sliceChannel, stored);
  const [framing, setFraming] = useState(1);
  const report = frames.find((f) => f.frame === frame)?.report ?? null;
  const state = useStateOf(shot, run, settings);

  const limit = useMemo(() => settings.bounds.limit ?? defaultLimit(settings), [settings]);
  const scene = useMemo(
    () => ({
      solids: settings.solids.map((s) => s.shape),
      sources: settings.sources.map((s) => s.shape),
      limit: limit,
    }),
    [settings.solids, settings.sources, limit],
  );
  const voxelSize = run?.plan.options.voxelSize ?? 1;
  const bounds = useMemo((): Box3 | null => {
    if (!report) return null;
    const [ox, oy, oz, nx, ny, nz] = report.window;
    return {
      min: [ox * voxelSize, oy * voxelSize, oz * voxelSize],
      max: [(ox + nx) * voxelSize, (oy + ny) * voxelSize, (oz + nz) * voxelSize],
    };
  }, [report, voxelSize]);
  const asFrame = useMemo((): ((s: typeof shown) => ViewportFrame | null) => {
    const options = run?.plan.options;
    const background = (ch: LookChannel): number => {
      if (!options) return 0;
      return ch === 'temperature' ? options.matter.ambient : ch === 'vel' ? Math.hypot(...options.forces.wind) : 0;
    };
    return (s) => (s?.preview ? { preview: s.preview, channel: s.channel, voxelSize, background: background(s.channel) } : null);
  }, [run?.plan.options, voxelSize]);
  const viewFrame = useMemo(() => asFrame(shown), [asFrame, shown]);
  const slicedFrame = useMemo(() => asFrame(sliceFrame), [asFrame, sliceFrame]);

  useEffect(() => {
    if (detail.isError) say('error', `The run cannot be shown: ${detail.error.message}`);
  }, [detail.isError, detail.error]);

  return (
    <Box sx={{ height: '100%', display: 'grid', gridTemplateRows: '52px minmax(0, 1fr)' }}>
      <BenchHeader shot={shot} variant={variant} />
      <Box sx={{ display: 'grid', gridTemplateColumns: '344px minmax(0, 1fr)', minHeight: 0 }}>
        <Board shot={shot} run={run} report={report} />
        <Box sx={{ display: 'grid', gridTemplateRows: 'minmax(0, 1fr) 132px', minWidth: 0, minHeight: 0 }}>
          <Box sx={{ position: 'relative', minHeight: 0, bgcolor: c.page }}>
            {/* While new frames arrive, quick pictures only: the fine one would take the cores from the run. */}
            <Viewport
              scene={scene}
              frame={viewFrame}
              sliced={slicedFrame}
              slice={slice}
              bounds={bounds}
              moving={playback.playing || (run?.state === 'running' && route.frame === null)}
              framing={framing}
            />
            <RunBar shot={shot} run={run} variant={variant} state={state} />
            <ViewBar
              run={run}
              channel={channel}
              slice={slice}
              sliceChannel={sliceChannel}
              frame={viewFrame}
              sliced={slicedFrame}
              onSlice={setSlice}
              onSliceChannel={setSliceChannel}
              onFrameAll={() => {
                setFraming(framing + 1);
              }}
            />
            <Readout report={report} run={run} waiting={run !== null && frame !== null && !shown} />
          </Box>
          <FrameStrip shot={shot} run={run} frames={frames} frame={frame} state={state.state} playback={playback} goTo={goTo} />
        </Box>
      </Box>
    </Box>
  );
}
