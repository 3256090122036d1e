import { useDrops } from '../liquid/use-drops';
import { usePoints } from '../passes/points-store';
import { channelsKept } from '../frames/channels-kept';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { type ReactElement, useMemo, useState } from 'react';
import { findAll } from '#core/checks';
import { differenceOf } from '#core/formats';
import { CHANNEL_LOOK, KEPT_CHANNELS, type LookChannel, isTint } from '#core/look';
import { isLiquidPlan, solveOf } from '#core/shot';
import type { RunDto } from '#protocol';
import { navigate, useSheet, useSolve } from '#web/state';
import { useColours } from '#web/ui';
import type { SliceSetting, ViewportFrame, ViewportScene } from '#web/viewport';
import { asViewportFrame } from '../frames/as-frame';
import { useBench } from '../bench-context';
import { CompareChart } from './compare-chart';
import { type Compared, CompareTable } from './compare-table';
import { useFrame } from '../frames/frame-store';
import { LinkedViewports, type Side } from './linked-viewports';
import { sceneOf } from '../view/scene';
import { type Shown, runTitle, useShown } from '../runs/shown-run';
import { Legend } from '../view/view-bar';
import { ChannelSelect, SlicePlace, SliceSelect, lookAt } from '../view/view-controls';

type Mode = 'beside' | 'wipe' | 'difference';
const MODES: Readonly<Record<Mode, string>> = { beside: 'Side by side', wipe: 'Wipe', difference: 'Difference' };

const PANEL = 214;

/** One side: a run with the settings it came from and what the checks say about it. */
function useCompared(shown: Shown): Compared {
  const { shot, spent } = useBench();
  const fields = useSheet((s) => s.fields);
  const sheet = useSolve();
  const { run, frames } = shown;
  return useMemo(() => {
    const used = shot.variants.find((v) => v.id === run?.variantId)?.settings;
    const settings = run?.rung === 'sketch' ? sheet : used ? solveOf(used) : null;
    const findings =
      run && settings
        ? findAll({ shot: fields, settings, plan: run.plan, reports: frames.map((f) => f.report), prediction: null, spent })
        : [];
    const title = run ? runTitle(run) : '';
    return { shown, title, settings, findings };
  }, [shown, run, frames, shot.variants, fields, sheet, spent]);
}

interface CompareViewProps {
  readonly other: RunDto;
  readonly frame: number | null;
  readonly channel: LookChannel;
  readonly moving: boolean;
}

/** This run against another one: same camera, same frame, and what differs. */
export function CompareView({ other, frame, channel, moving }: CompareViewProps): ReactElement {
  const c = useColours();
  const { shot, shown } = useBench();
  const sheet = useSolve();
  const fields = useSheet((s) => s.fields);
  const second = useShown(shot, other.variantId, other.id);
  const one = useCompared(shown);
  const two = useCompared(second);
  const isVoxels = !isLiquidPlan(other.plan);
  const [mode, setMode] = useState<Mode>('beside');
  const [slice, setSlice] = useState<SliceSetting>({ axis: 'z', at: 0.5 });
  const a = useFrame(isVoxels ? (shown.run?.id ?? null) : null, frame, channel, shown.stored);
  const b = useFrame(isVoxels ? other.id : null, frame, channel, second.stored);
  const liquid = !isVoxels;
  const pointsA = usePoints(liquid ? (shown.run?.id ?? null) : null, frame, shown.stored);
  const pointsB = usePoints(liquid ? other.id : null, frame, second.stored);
  const dropsA = useDrops(shown.run?.plan ?? null, null);
  const dropsB = useDrops(other.plan, null);
  const frameA = useMemo(() => asViewportFrame(a, shown.run?.plan ?? null), [a, shown.run]);
  const frameB = useMemo(() => asViewportFrame(b, other.plan), [b, other]);

  const difference = useMemo(() => {
    if (mode !== 'difference' || !frameA || !frameB || a?.frame !== b?.frame) return null;
    const d = differenceOf(frameA, frameB);
    const picture: ViewportFrame = { preview: d.preview, channel: 'difference', voxelSize: frameA.voxelSize, background: 0 };
    return { ...d, picture };
  }, [mode, frameA, frameB, a, b]);

  const name = (run: { readonly variantId: string } | null): string =>
    shot.variants.find((v) => v.id === run?.variantId)?.name ?? 'a deleted variant';
  const missing = (side: Shown): string | null =>
    frame !== null && side.frames.length > 0 && !side.stored.has(frame) ? `Frame ${String(frame)} is not there` : null;
  const sides: Side[] = useMemo(() => {
    const scene = (s: Compared): ViewportScene => sceneOf(s.settings ?? sheet, fields, frame);
    if (mode === 'difference') {
      return [
        {
          id: 'difference',
          title: `${one.title} minus ${two.title}`,
          detail: difference
            ? `${(difference.relative * 100).toFixed(1)} % of the ${CHANNEL_LOOK[channel].title.toLowerCase()} differs`
            : '',
          scene: scene(one),
          frame: null,
          sliced: difference?.picture ?? null,
          empty: difference ? null : 'This frame is not in both runs',
        },
      ];
    }
    return [
      {
        id: 'one',
        title: one.title,
        detail: name(shown.run),
        scene: scene(one),
        frame: frameA,
        points: pointsA,
        drops: dropsA,
        empty: missing(shown),
      },
      {
        id: 'two',
        title: two.title,
        detail: name(other),
        scene: scene(two),
        frame: frameB,
        points: pointsB,
        drops: dropsB,
        empty: missing(second),
      },
    ];
    // eslint-disable-next-line react-hooks/exhaustive-deps -- name and missing read what is listed
  }, [
    mode,
    one,
    two,
    sheet,
    frameA,
    frameB,
    pointsA,
    pointsB,
    dropsA,
    dropsB,
    difference,
    channel,
    shown,
    second,
    other,
    frame,
    shot.variants,
    fields,
  ]);

  const kept = KEPT_CHANNELS.filter((k) => !isTint(k) && [shown.run?.plan, other.plan].every((p) => !p || channelsKept(p).includes(k)));
  return (
    <Box
      data-testid="compare"
      sx={{ display: 'grid', gridTemplateRows: `36px minmax(0, 1fr) ${String(PANEL)}px`, minHeight: 0, minWidth: 0, bgcolor: c.panel }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 1, borderBottom: `1px solid ${c.line}` }}>
        <ToggleButtonGroup
          size="small"
          exclusive
          value={mode}
          aria-label="How to compare"
          onChange={(_e, v: Mode | null) => {
            if (v) setMode(v);
          }}
          sx={{ '& button': { py: 0.1, px: 1.25, textTransform: 'none', color: c.text } }}
        >
          {(Object.keys(MODES) as Mode[])
            .filter((m) => !liquid || m !== 'difference')
            .map((m) => (
              <ToggleButton key={m} value={m}>
                {MODES[m]}
              </ToggleButton>
            ))}
        </ToggleButtonGroup>
        {!liquid && <ChannelSelect label="Channel" value={channel} kept={kept} onChange={lookAt} />}
        {mode === 'difference' && (
          <>
            <SliceSelect value={slice.axis} off={false} onChange={(axis) => setSlice({ ...slice, axis })} />
            <SlicePlace at={slice.at} onChange={(at) => setSlice({ ...slice, at })} />
          </>
        )}
        <Box sx={{ flex: 1 }} />
        <Button color="inherit" size="small" onClick={() => navigate({ with: null })}>
          End comparing (C)
        </Button>
      </Box>
      <Box sx={{ position: 'relative', display: 'grid', minHeight: 0, minWidth: 0 }}>
        <LinkedViewports shotId={shot.id} sides={sides} wipe={mode === 'wipe'} slice={slice} moving={moving} />
        {difference && (
          <Box sx={{ position: 'absolute', right: 12, top: 12 }}>
            <Legend frame={difference.picture} sliced />
          </Box>
        )}
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) minmax(0, 1fr)', borderTop: `1px solid ${c.line}`, minHeight: 0 }}>
        <CompareTable one={one} two={two} frame={frame} />
        <CompareChart one={one} two={two} frame={frame} channel={channel} height={PANEL} />
      </Box>
    </Box>
  );
}
