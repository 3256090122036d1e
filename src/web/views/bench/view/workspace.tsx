import { isLiquidReport } from '#core/passes';
import { LiquidReadout } from '../liquid/readout';
import { useDrops } from '../liquid/use-drops';
import { usePoints } from '../passes/points-store';
import Box from '@mui/material/Box';
import { type ReactElement, useEffect, useMemo, useRef, useState } from 'react';
import type { Box3 } from '#core/geometry';
import { type LookChannel, isTint } from '#core/look';
import { isLiquidPlan, withValue, type Difference, type ShapeSettings, defaultLimit, optionsOf, solveOf } from '#core/shot';
import type { CacheState } from '#protocol';
import { useRoute, useSheet, useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { type HandleMode, type SliceSetting, Viewport, type ViewportApi, type ViewportFrame, type ViewportHandles } from '#web/viewport';
import { asViewportFrame } from '../frames/as-frame';
import { useBench } from '../bench-context';
import { keepView, keptView } from './kept-view';
import { CompareButton } from '../compare/compare-button';
import { type ShownFrame, useFrame } from '../frames/frame-store';
import { GeometryDrop } from '../sheet/import-geometry';
import { ITEM_KINDS, changeItem, itemsOf, listOf } from '../sheet/items';
import { Readout } from '../gas/readout';
import { RunBar } from '../runs/run-bar';
import { useYard } from './scene';
import { useSelection } from './selection';
import { useBeside } from '../sheet/use-beside';
import { useSheetSlice } from '../sheet/use-sheet-slice';
import type { SheetSlice } from './view-controls';
import { ViewBar } from './view-bar';

/** Whether the colours of a frame are there, or are known not to be. */
const coloursOf = (tint: ShownFrame | null, of: ShownFrame): boolean => tint !== null && tint.run === of.run && tint.frame === of.frame;

/** The last whole picture, that of another run too, stays until the next one is whole: neither empty nor in a shade that its matter has not. */
function useLastWhole(arrived: ViewportFrame | null, waits: boolean): ViewportFrame | null {
  const last = useRef<ViewportFrame | null>(null);
  if (!waits) last.current = arrived;
  return last.current;
}

interface WorkspaceProps {
  readonly frame: number | null;
  readonly channel: LookChannel;
  readonly playing: boolean;
  readonly state: { readonly state: CacheState; readonly differences: readonly Difference[] };
  readonly secondsLeft: number | null;
}

/** The viewport of the Bench with what lies over it. */
export function Workspace({ frame, channel, playing, state, secondsLeft }: WorkspaceProps): ReactElement {
  const c = useColours();
  const route = useRoute();
  const { shot, shown } = useBench();
  const { run, frames, stored } = shown;
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const edit = useSheet((s) => s.editSolve);
  const tinted = isTint(channel);
  const smoke = tinted ? 'density' : channel;
  const picture = useFrame(run && !isLiquidPlan(run.plan) ? run.id : null, frame, smoke, stored);
  const tint = useFrame(tinted ? (run?.id ?? null) : null, frame, channel, stored);
  const liquid = run !== null && isLiquidPlan(run.plan);
  const points = usePoints(liquid ? run.id : null, frame, stored);
  const burns =
    smoke === 'density' &&
    run !== null &&
    !isLiquidPlan(run.plan) &&
    run.plan.options.matter.fire !== null &&
    (run.rung === 'sketch' || run.plan.keep.channels.includes('flame'));
  const flame = useFrame(burns ? run.id : null, frame, 'flame', stored);
  const [slice, setSlice] = useState<SliceSetting | null>(null);
  const [sliceChannel, setSliceChannel] = useState<LookChannel>('vel');
  const [ofSheet, setOfSheet] = useState<SheetSlice | null>(null);
  const rung = run?.rung ?? 'test';
  const drops = useDrops(run?.plan ?? null, slice);
  const contact = useSheetSlice('slice', slice, ofSheet === 'solids', frame, rung);
  const arrows = useSheetSlice('forces', slice, ofSheet === 'forces', frame, rung);
  const slicePicture = useFrame(slice && !ofSheet ? (run?.id ?? null) : null, frame, sliceChannel, stored);
  const [mode, setMode] = useState<HandleMode>('move');
  const [camera, setCamera] = useState<string | null>(null);
  const api = useRef<ViewportApi | null>(null);
  const report = frames.find((f) => f.frame === frame)?.report ?? null;
  const { selection, select } = useSelection();
  // What is dragged is shown at once; the sheet hears of it when the hand lets go.
  const [draggedShape, setDraggedShape] = useState<ShapeSettings | null>(null);
  const [draggedBox, setDraggedBox] = useState<Box3 | null>(null);

  // Handles belong to the group that is open.
  const group = route.group;
  useEffect(() => {
    if (selection && ITEM_KINDS[selection.group].group !== group) select(null);
  }, [group, selection, select]);
  // One item alone needs no choosing.
  useEffect(() => {
    const list = listOf(group);
    if (list && itemsOf(solveOf(useSheet.getState().settings), list).length === 1) select({ group: list, index: 0 });
  }, [group, select]);

  const yard = useYard(frame, draggedShape && selection ? { ...selection, shape: draggedShape } : null, draggedBox);
  const item = selection ? itemsOf(settings, selection.group)[selection.index] : undefined;
  const limit = useMemo(() => settings.bounds.limit ?? defaultLimit(settings), [settings]);
  const handles = useMemo((): ViewportHandles | null => {
    if (item?.shape && selection && !item.hidden) {
      const { group: of, index } = selection;
      return {
        kind: 'shape',
        shape: item.shape,
        mode,
        velocity: 'velocity' in item ? item.velocity : null,
        onAim: (velocity, done) => {
          // The arrow follows when the hand lets go: one step to undo.
          if (done) changeItem(of, index, { velocity });
        },
        onDrag: setDraggedShape,
        onChange: (shape) => {
          changeItem(of, index, { shape });
        },
      };
    }
    if (group !== 'bounds') return null;
    return {
      kind: 'box',
      box: limit,
      onDrag: setDraggedBox,
      onChange: (box) => {
        edit((s) => withValue(s, ['bounds', 'limit'], { min: [...box.min], max: [...box.max] }));
      },
    };
  }, [item, selection, mode, group, limit, edit]);

  const plan = run?.plan ?? null;
  // The bounds of the picture that is there: those of a frame that is still on its way would be drawn around the last one.
  const pictured = picture?.frame ?? frame;
  const bounds = useMemo((): readonly Box3[] => {
    const report = frames.find((f) => f.frame === pictured)?.report;
    if (!report || !plan) return [];
    return (('parts' in report ? report.parts : undefined) ?? [report]).map(({ window: [ox, oy, oz, nx, ny, nz] }, n) => {
      const h = optionsOf(plan)[n]?.voxelSize ?? plan.options.voxelSize;
      return { min: [ox * h, oy * h, oz * h], max: [(ox + nx) * h, (oy + ny) * h, (oz + nz) * h] };
    });
  }, [frames, pictured, plan]);
  const beside = useBeside({
    run: run?.id ?? null,
    plan,
    frame,
    stored,
    channel: smoke,
    flame: burns ? 'flame' : null,
    tint: tinted ? channel : null,
  });
  const arrived = useMemo(() => asViewportFrame(picture, plan, { flame, tint }), [picture, plan, flame, tint]);
  const onItsWay = picture === null ? run !== null && !liquid && frame !== null && stored.has(frame) : tinted && !coloursOf(tint, picture);
  const viewFrame = useLastWhole(arrived, onItsWay);
  const slicedFrame = useMemo(() => asViewportFrame(slicePicture, plan), [slicePicture, plan]);
  const cameras = useMemo(
    () => ({
      api: () => api.current,
      current: camera,
      choose: setCamera,
      stillName: () =>
        `${shot.slug}-${run ? (run.rung === 'sketch' ? 'sketch' : `run-${String(run.number)}`) : 'scene'}-${String(frame ?? 0).padStart(4, '0')}.png`,
    }),
    [camera, shot.slug, run, frame],
  );
  return (
    <GeometryDrop group={group === 'sources' ? 'sources' : 'solids'}>
      <Box sx={{ position: 'relative', minHeight: 0, minWidth: 0, bgcolor: c.page }}>
        {/* While new frames arrive, quick pictures only: the fine one would take the cores from the run. */}
        <Viewport
          scene={yard}
          frame={viewFrame}
          beside={beside}
          points={points}
          drops={drops}
          sliced={slicedFrame}
          slice={ofSheet || liquid ? null : slice}
          arrows={arrows}
          contact={contact}
          bounds={bounds}
          moving={playing || (run?.state === 'running' && (route.frame === null || run.rung === 'sketch'))}
          gentle={run?.state === 'running'}
          handles={handles}
          initialView={keptView(shot.id)}
          aspect={fields.cameras.find((k) => k.name === camera)?.aspect ?? null}
          onReady={(ready) => {
            api.current = ready;
          }}
          onCamera={(view) => {
            keepView(shot.id, view);
            setCamera(null);
          }}
        />
        <RunBar state={state} secondsLeft={secondsLeft} />
        <ViewBar
          run={run}
          channel={channel}
          slice={slice}
          sliceChannel={sliceChannel}
          contact={contact}
          arrows={arrows}
          ofSheet={ofSheet}
          onOfSheet={setOfSheet}
          frame={viewFrame}
          points={points}
          sliced={slicedFrame}
          onSlice={setSlice}
          onSliceChannel={setSliceChannel}
          cameras={cameras}
          mode={handles?.kind === 'shape' ? mode : null}
          aims={handles?.kind === 'shape' && handles.velocity !== null}
          onMode={setMode}
        />
        <CompareButton />
        {report && isLiquidReport(report) ? (
          run && <LiquidReadout report={report} points={points} voxelSize={run.plan.options.voxelSize} />
        ) : (
          <Readout report={report} run={run} waiting={run !== null && frame !== null && !picture && !liquid} />
        )}
      </Box>
    </GeometryDrop>
  );
}
