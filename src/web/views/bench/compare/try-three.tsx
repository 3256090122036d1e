import { useDrops } from '../liquid/use-drops';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Slider from '@mui/material/Slider';
import { type ReactElement, useEffect, useMemo, useState } from 'react';
import * as z from 'zod';
import { useStore } from 'zustand';
import type { LookChannel } from '#core/look';
import {
  solveKindOf,
  parsedSolve,
  schemaOfSolve,
  type SolveKind,
  type Path,
  type SolveSettings,
  inner,
  metaAt,
  putAtPath,
  valueAtPath,
  solveOf,
} from '#core/shot';
import { formatQuantity, formatSeconds } from '#core/units';
import { type Sketch, createSketch, mainSketch, useSheet, useTellSketching, useSolve } from '#web/state';
import { NumberField, useColours } from '#web/ui';
import type { ViewportFrame } from '#web/viewport';
import { backgroundOf } from '../frames/as-frame';
import { useBench } from '../bench-context';
import { LinkedViewports, type Side } from './linked-viewports';
import { moves, sceneOf } from '../view/scene';
import { threeValues } from './three-values';

const CHANNEL: LookChannel = 'density';

/** The schema of one number. */
function numberAt(kind: SolveKind, path: Path): z.ZodType | null {
  let schema: z.ZodType = schemaOfSolve(kind);
  for (const key of path) {
    const bare = inner(schema);
    if (bare instanceof z.ZodObject) schema = (bare.shape as Record<string, z.ZodType>)[String(key)] ?? z.never();
    else if (bare instanceof z.ZodArray) schema = bare.element as z.ZodType;
    else return null;
  }
  return inner(schema);
}

interface TryThreeProps {
  readonly path: Path;
  readonly onClose: () => void;
}

/** Three values of a setting, three Sketches side by side. */
export function TryThree({ path, onClose }: TryThreeProps): ReactElement {
  const c = useColours();
  const { shot, predictor } = useBench();
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const edit = useSheet((s) => s.editSolve);
  const key = path.join('.');
  const meta = useMemo(() => metaAt(key), [key]);
  const unit = meta?.unit ?? 'none';
  const bare = numberAt(solveKindOf(settings), path);
  const integer = bare instanceof z.ZodNumber && bare.format === 'safeint';
  const [values, setValues] = useState<readonly number[]>(() => threeValues(Number(valueAtPath(settings, path)), meta ?? {}, integer));
  const [sketches, setSketches] = useState<readonly Sketch[]>([]);
  useEffect(() => {
    // Three at once leave no core for a fourth.
    mainSketch().stop();
    const made = [1, 2, 3].map(() => createSketch(1));
    setSketches(made);
    return () => {
      for (const s of made) s.close();
    };
  }, []);
  const tried = useMemo(
    () => values.map((v) => parsedSolve(solveKindOf(settings), putAtPath(settings, path, v)) ?? settings),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a path is what it says
    [settings, key, values],
  );
  useEffect(() => {
    sketches.forEach((sketch, n) => {
      const own = tried[n];
      if (own) sketch.show(fields, own);
    });
  }, [sketches, tried, fields]);
  const [wanted, setWanted] = useState<number | null>(null);
  const name = meta?.title ?? key;
  if (sketches.length < 3) return <Box />;
  return (
    <Tried
      key={key}
      name={name}
      sketches={sketches}
      tried={tried}
      wanted={wanted}
      onWanted={setWanted}
      shotId={shot.id}
      onClose={onClose}
      titleOf={(n) => `${name} ${formatQuantity(values[n] ?? 0, unit)}`}
      controls={(n) => (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 1, minWidth: 0 }}>
          <NumberField
            label={`${name}, value ${String(n + 1)}`}
            value={values[n] ?? 0}
            unit={unit}
            min={meta?.min}
            max={meta?.max}
            step={meta?.step}
            ratio={meta?.ratio}
            integer={integer}
            onChange={(v) => setValues((all) => all.map((old, m) => (m === n ? v : old)))}
          />
          <span
            className="mono"
            style={{ color: c.dim, whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis', flex: 1, fontSize: 12 }}
          >
            {(() => {
              const time = predictor.of(tried[n] ?? settings, 'final')?.time;
              return time ? `Final ${formatSeconds(time.likely)}` : '';
            })()}
          </span>
          <Button
            size="small"
            color="inherit"
            variant="outlined"
            onClick={() => {
              const v = values[n];
              if (v !== undefined && edit((s) => putAtPath(s, path, v) as SolveSettings)) onClose();
            }}
            sx={{ borderColor: c.line, whiteSpace: 'nowrap', flexShrink: 0 }}
          >
            Use this
          </Button>
        </Box>
      )}
    />
  );
}

interface TriedProps {
  readonly name: string;
  readonly sketches: readonly Sketch[];
  readonly tried: readonly SolveSettings[];
  readonly shotId: string;
  readonly wanted: number | null;
  readonly onWanted: (frame: number | null) => void;
  readonly titleOf: (n: number) => string;
  readonly controls: (n: number) => ReactElement;
  readonly onClose: () => void;
}

/** What the Sketches have so far, at one frame. */
function Tried({ name, sketches, tried, shotId, wanted, onWanted, titleOf, controls, onClose }: TriedProps): ReactElement {
  const c = useColours();
  const fields = useSheet((s) => s.fields);
  const { firstFrame, lastFrame } = fields;
  const [s1, s2, s3] = sketches as [Sketch, Sketch, Sketch];
  const states = [useStore(s1), useStore(s2), useStore(s3)];
  useTellSketching(states.some((s) => s.computing));
  // The newest frame that all have; what is wanted once all have it.
  const newest = Math.min(...states.map((s) => s.frames.findLast((f) => f.stored)?.frame ?? -Infinity));
  const frame = wanted === null ? newest : Math.min(wanted, newest);
  // A scene that stands still stays the same object: it is drawn anew only when it changes.
  const at = tried.some(moves) && Number.isFinite(frame) ? frame : null;
  const scenes = useMemo(() => tried.map((own) => sceneOf(own, fields, at)), [tried, fields, at]);
  const drops = [useDrops(states[0]?.plan ?? null, null), useDrops(states[1]?.plan ?? null, null), useDrops(states[2]?.plan ?? null, null)];
  const sides = states.map((state, n): Side => {
    const preview = Number.isFinite(frame) ? (sketches[n]?.preview(frame, CHANNEL) ?? null) : null;
    const points = Number.isFinite(frame) ? (sketches[n]?.points(frame) ?? null) : null;
    const plan = state.plan;
    return {
      id: state.id,
      title: titleOf(n),
      detail: state.computing ? `${String(state.frames.length)} frames` : '',
      scene: scenes[n] ?? sceneOf(solveOf(useSheet.getState().settings), fields, at),
      frame: plan && preview ? frameOf(preview, plan) : null,
      points,
      drops: drops[n] ?? null,
      empty: state.error ? state.error.message : (preview ?? points) ? null : 'Starting',
    };
  });
  return (
    <Box
      data-testid="try-three"
      sx={{ display: 'grid', gridTemplateRows: '36px minmax(0, 1fr) 42px', minHeight: 0, minWidth: 0, bgcolor: c.panel }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, px: 1.5, borderBottom: `1px solid ${c.line}` }}>
        <Box component="h2" sx={{ m: 0, fontSize: 13.5, fontWeight: 650, whiteSpace: 'nowrap' }}>
          {name}: three values
        </Box>
        <Slider
          size="small"
          color="secondary"
          aria-label="Frame of the three"
          value={Number.isFinite(frame) ? frame : firstFrame}
          min={firstFrame}
          max={lastFrame}
          step={1}
          onChange={(_e, v) => onWanted(v)}
          sx={{ width: 260, mx: 1 }}
        />
        <span className="mono" data-testid="tried-frame" style={{ color: c.dim, whiteSpace: 'nowrap' }}>
          frame {Number.isFinite(frame) ? frame : '–'}
        </span>
        {wanted !== null && (
          <Button size="small" color="inherit" onClick={() => onWanted(null)}>
            Newest
          </Button>
        )}
        <Box sx={{ flex: 1 }} />
        <Button size="small" color="inherit" onClick={onClose}>
          End
        </Button>
      </Box>
      <LinkedViewports
        shotId={shotId}
        sides={sides}
        wipe={false}
        moving={states.some((s) => s.computing)}
        gentle={states.some((s) => s.computing)}
      />
      <Box
        sx={{ display: 'grid', gridTemplateColumns: 'repeat(3, minmax(0, 1fr))', alignItems: 'center', borderTop: `1px solid ${c.line}` }}
      >
        {[0, 1, 2].map((n) => (
          <Box key={n} sx={{ minWidth: 0 }}>
            {controls(n)}
          </Box>
        ))}
      </Box>
    </Box>
  );
}

const made = new WeakMap<ViewportFrame['preview'], ViewportFrame>();

/** The same object for the same picture: a viewport draws only what is new. */
function frameOf(preview: ViewportFrame['preview'], plan: Parameters<typeof backgroundOf>[0]): ViewportFrame {
  const known = made.get(preview);
  if (known) return known;
  const frame: ViewportFrame = { preview, channel: CHANNEL, voxelSize: plan.options.voxelSize, background: backgroundOf(plan, CHANNEL) };
  made.set(preview, frame);
  return frame;
}
