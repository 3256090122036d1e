import { createStore, type StoreApi } from 'zustand/vanilla';
import { expectedParticles, expectedVoxels } from '#core/cost';
import type { ErrorData } from '#core/errors';
import type { PointsPreview, Preview } from '#core/formats';
import type { LookChannel } from '#core/look';
import { type SolveReport, isLiquidReport } from '#core/passes';
import { RUNGS, isLiquidPlan, type Plan, type SolveSettings, type ShotFields, planToRun, resolvePlan } from '#core/shot';
import type { FrameDto, SketchMessage } from '#protocol';
import { type Sketcher, createSketcher } from '#workers/browser';

/** A Sketch: what it computes, and what it has computed. Its frames live in memory only. */
export interface SketchState {
  readonly id: string;
  /** Wanted by the user. */
  readonly on: boolean;
  readonly computing: boolean;
  readonly plan: Plan | null;
  /** Factor on the Final's voxel size, 1 or more. */
  readonly factor: number;
  readonly frames: readonly FrameDto[];
  /** Steps a second, over the last second or so. */
  readonly rate: number;
  readonly error: ErrorData | null;
}

export interface Sketch extends StoreApi<SketchState> {
  /** Computes these settings; while it is on, call it again with every change. */
  show(shot: ShotFields, settings: SolveSettings): void;
  stop(): void;
  /** Stops, and lets its frames go. */
  clear(): void;
  preview(frame: number, channel: LookChannel, bounds?: number): Preview | null;
  points(frame: number): PointsPreview | null;
  close(): void;
}

/** A Sketch is as fine as stays live: about so many active voxels (decisions.md), never finer than the Final. */
const AIM_VOXELS = 30_000;
const MOST_VOXELS = 45_000;
/** One that came to its end with fewer is computed again, finer: what it would hold was guessed from its settings. */
const FEW_VOXELS = 20_000;
/** So often at most for one change: whole tiles can make a little finer too many, and a little coarser too few, for ever. */
const MOST_AGAIN = 3;
/** A change is waited for until the hand rests, milliseconds. */
const SETTLE = 120;
/** Frames that all Sketches of the page keep in memory together, bytes: three may be beside the first. Later frames are computed and not kept. */
const KEEP = 700e6;
/** Span that the rate is measured over, milliseconds. */
const WINDOW = 1200;
/**
 * Frames come faster than a page can be drawn, and drawing takes the cores that compute: the page is told of them after so many times what
 * the last telling took (its picture included), between two bounds in milliseconds.
 */
const PUBLISH = { times: 3, least: 50, most: 260 } as const;

const sketches = new Map<string, Sketch>();
let count = 0;
/** Bytes that they keep now. */
let keptByAll = 0;

/** The sketch that a run's id names, if it is one. */
export const sketchById = (id: string): Sketch | null => sketches.get(id) ?? null;

/** So many particles of a liquid take as long as a voxel of gas: a Sketch has 40,000 of them where one of gas has 30,000 voxels. */
export const PARTICLES_A_VOXEL = 4 / 3;

/** What a frame weighs, in voxels of gas. */
const loadOf = (report: SolveReport): number => (isLiquidReport(report) ? report.particles / PARTICLES_A_VOXEL : report.activeVoxels);

/** The same of a plan, from its settings alone. */
export const expectedLoad = (plan: Plan): number =>
  isLiquidPlan(plan) ? expectedParticles(plan) / PARTICLES_A_VOXEL : expectedVoxels(plan);

/** Most active voxels that a plan is expected to have, or what particles weigh in them. */
type Expect = (plan: Plan) => number;

/** Factor on the Final's voxel size at which about as many voxels as wanted are expected; the reach does not shrink with the voxels, so a few rounds. */
function factorFor(shot: ShotFields, settings: SolveSettings, expect: Expect): number {
  let factor: number = RUNGS.sketch;
  for (let round = 0; round < 4; round++) {
    const voxels = expect(resolvePlan(shot, settings, 'sketch', factor));
    factor = Math.max(1, factor * Math.cbrt(Math.max(1, voxels) / AIM_VOXELS));
  }
  return Number(factor.toPrecision(3));
}

export function createSketch(threads: number, make: typeof createSketcher = createSketcher, expect: Expect = expectedLoad): Sketch {
  const id = `sketch-${String(++count)}`;
  const previews = new Map<string, Preview>();
  const points = new Map<number, PointsPreview>();
  const keyOf = (frame: number, channel: string, bounds = 0): string => `${String(frame)}/${channel}/${String(bounds)}`;
  let bytes = 0;
  let sketcher: Sketcher | null = null;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let asked: { shot: ShotFields; settings: SolveSettings } | null = null;
  /** Voxel size at which it has about as many voxels as stay live, metres; 0: not known yet. Found anew at each start. */
  let size = 0;
  /** How often it was computed again, finer, since the last change. */
  let again = 0;
  /** Most active voxels of the present run. */
  let most = 0;
  /** Frames that the page has not been told of. */
  let waiting: FrameDto[] = [];
  let publishing: ReturnType<typeof setTimeout> | undefined;
  let rate = 0;
  let telling = 40;
  let ticks: { at: number; steps: number }[] = [];
  const store = createStore<SketchState>(() => ({
    id,
    on: false,
    computing: false,
    plan: null,
    factor: RUNGS.sketch,
    frames: [],
    rate: 0,
    error: null,
  }));
  const { setState, getState } = store;

  /** Voxel size at which as many voxels as this would be about the aim. */
  const sizeFor = (voxels: number): number =>
    Number(((getState().plan?.options.voxelSize ?? 1) * Math.cbrt(voxels / AIM_VOXELS)).toPrecision(3));

  const letGo = (): void => {
    previews.clear();
    points.clear();
    keptByAll -= bytes;
    bytes = 0;
  };

  const begin = (): void => {
    if (!asked) return;
    const { shot, settings } = asked;
    letGo();
    ticks = [];
    waiting = [];
    rate = 0;
    most = 0;
    try {
      if (size === 0) size = factorFor(shot, settings, expect) * settings.detail.voxelSize;
      const factor = Math.max(1, size / settings.detail.voxelSize);
      const plan = planToRun(shot, settings, 'sketch', factor);
      sketcher ??= make(threads, receive);
      sketcher.start({ plan });
      setState({ computing: true, plan, factor, frames: [], error: null });
    } catch (error) {
      const message = error instanceof Error ? error.message : String(error);
      setState({ on: false, computing: false, error: { tag: 'refused', message, fields: {}, cause: null } });
    }
  };

  const publish = (): void => {
    clearTimeout(publishing);
    publishing = undefined;
    if (waiting.length === 0) return;
    const news = waiting;
    waiting = [];
    const began = performance.now();
    setState(({ frames }) => ({ frames: [...frames, ...news], rate }));
    // A picture is drawn in the next animation frame; the one after that begins when it is done.
    requestAnimationFrame(() =>
      requestAnimationFrame(() => {
        telling = telling * 0.7 + (performance.now() - began) * 0.3;
      }),
    );
  };

  const receive = (message: SketchMessage): void => {
    switch (message.kind) {
      case 'frame': {
        const { report, inRange } = message;
        most = Math.max(most, loadOf(report));
        if (most > MOST_VOXELS) {
          size = sizeFor(most);
          begin();
          return;
        }
        if (keptByAll < KEEP) {
          for (const p of message.previews) {
            previews.set(keyOf(report.frame, p.channel, p.bounds), p.preview);
            bytes += p.preview.data.length;
            keptByAll += p.preview.data.length;
          }
          if (message.points) {
            points.set(report.frame, message.points);
            bytes += 8 * message.points.count;
            keptByAll += 8 * message.points.count;
          }
        }
        const now = performance.now();
        ticks = [...ticks.filter((t) => now - t.at < WINDOW), { at: now, steps: Math.max(1, report.substepsUsed) }];
        const span = now - (ticks[0]?.at ?? now);
        const steps = ticks.slice(1).reduce((n, t) => n + t.steps, 0);
        const frame: FrameDto = {
          frame: report.frame,
          inRange,
          stored: inRange && (points.has(report.frame) || previews.has(keyOf(report.frame, 'density'))),
          damage: null,
          bytes: 0,
          report,
        };
        waiting.push(frame);
        if (span > 200) rate = (steps * 1000) / span;
        publishing ??= setTimeout(publish, Math.min(PUBLISH.most, Math.max(PUBLISH.least, PUBLISH.times * telling)));
        return;
      }
      case 'done':
        publish();
        if (most > 0) size = sizeFor(most);
        if (most > 0 && most < FEW_VOXELS && getState().factor > 1 && again++ < MOST_AGAIN) begin();
        else setState({ computing: false });
        return;
      case 'failed':
        publish();
        setState({ computing: false, error: message.error });
        return;
    }
  };

  const sketch: Sketch = {
    ...store,
    show(shot, settings) {
      const first = !getState().on;
      if (first) size = 0;
      again = 0;
      asked = { shot, settings };
      setState({ on: true });
      clearTimeout(timer);
      timer = setTimeout(begin, first ? 0 : SETTLE);
    },
    stop() {
      clearTimeout(timer);
      publish();
      sketcher?.stop();
      setState({ on: false, computing: false });
    },
    clear() {
      sketch.stop();
      letGo();
      setState({ plan: null, frames: [], error: null });
    },
    points: (frame) => points.get(frame) ?? null,
    preview: (frame, channel, bounds) => previews.get(keyOf(frame, channel, bounds)) ?? null,
    close() {
      clearTimeout(timer);
      clearTimeout(publishing);
      sketcher?.close();
      sketches.delete(id);
      letGo();
    },
  };
  sketches.set(id, sketch);
  return sketch;
}
