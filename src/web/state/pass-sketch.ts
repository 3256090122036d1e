import { createStore, type StoreApi } from 'zustand/vanilla';
import type { ErrorData } from '#core/errors';
import { type MeshPreview, type PointsPreview, type Preview, decodePreview, readMeshPreview, readPointsPreview } from '#core/formats';
import type { LookChannel } from '#core/look';
import { type CachedRung, type PassSketchPlan, type ResolvedInput, passSketch } from '#core/passes';
import type { InputRole, Settings, ShotFields } from '#core/shot';
import type { FrameList } from '#core/pass';
import type { PassFrameDto, PassRunDto, PassSketchMessage, ShotDto, SketchInput } from '#protocol';
import { type PassSketcher, createPassSketcher } from '#workers/browser';
import { chainOf, givesOf } from './passes';

/** What a Sketch of a pass computes, from runs that are there. */
export interface PassSketchJob extends PassSketchPlan {
  readonly inputs: Readonly<Partial<Record<InputRole, SketchInput>>>;
  /** Frames of a whole run. */
  readonly whole: FrameList;
  /** At which rung what it reads is there. */
  readonly rung: CachedRung;
}

export type PassSketchAnswer = { readonly job: PassSketchJob } | { readonly problem: string };

type Given = { readonly shot: ShotDto; readonly settings: Settings; readonly fields: ShotFields };

/** The Sketch of a pass around a frame, of the Test of what it reads, else of the Final; or why there is none. */
export function passSketchOf(given: Given, id: string, frame: number): PassSketchAnswer {
  const chain = chainOf(given);
  let problem = 'It starts from what it reads, and no whole run of that is there: start its Test first.';
  for (const rung of ['test', 'final'] as const) {
    const { plan, inputs, problem: why } = chain.entry(id, rung);
    if (!plan) return { problem: why };
    const sketch = passSketch(plan, frame);
    if (!sketch) return { problem: 'A pass of this kind has no Sketch: start its Test.' };
    if (inputs.some((i) => i.folder !== null)) {
      problem = 'It reads files of a folder: a Sketch reads runs only. Start its Test.';
      continue;
    }
    const found = inputs.map((i) => [i.role, inputOf(given.shot, i)] as const);
    if (found.some(([, input]) => input === null)) continue;
    const read = Object.fromEntries(found.flatMap(([role, input]) => (input ? [[role, input]] : [])));
    return { job: { ...sketch, inputs: read, whole: plan.frames, rung } };
  }
  return { problem };
}

/** The whole run that is read, with what its frames are like. */
function inputOf({ runs, passRuns }: ShotDto, { run: pinned, key }: ResolvedInput): SketchInput | null {
  const whole = [...runs, ...passRuns].filter((r) => !r.freed && r.state === 'done' && r.damagedFrames + r.missingFrames === 0);
  const run = pinned === null ? whole.findLast((r) => r.key === key) : whole.find((r) => r.id === pinned);
  if (!run) return null;
  return { run: run.id, gives: givesOf(run) };
}

export interface PassSketchState {
  readonly on: boolean;
  readonly computing: boolean;
  /** Which pass, and around which frame it was wanted. */
  readonly pass: string | null;
  readonly job: PassSketchJob | null;
  /** How far it is: frames that were computed, those that lead up to it among them. */
  readonly done: number;
  readonly frames: readonly PassFrameDto[];
  readonly error: ErrorData | null;
}

export interface PassSketch extends StoreApi<PassSketchState> {
  /** Computes this; while it is on, call it again with every change. */
  show(pass: string, answer: PassSketchAnswer): void;
  stop(): void;
  preview(frame: number, channel: LookChannel, part?: number): Preview | null;
  points(frame: number, channel?: 'points' | 'outside'): PointsPreview | null;
  mesh(frame: number): MeshPreview | null;
}

/** What is looked at of a channel, by what it is. */
const decodedOf = (channel: string, bytes: Uint8Array<ArrayBuffer>): Preview | PointsPreview | MeshPreview | null =>
  channel === 'mesh'
    ? readMeshPreview(bytes)
    : channel === 'points' || channel === 'outside'
      ? readPointsPreview(bytes)
      : decodePreview(bytes);

/** A Sketch's name in the address of its frames. */
export const PASS_SKETCH = 'pass-sketch';
/** A change is waited for until the hand rests, milliseconds. */
const SETTLE = 150;

export function createPassSketch(threads: number, make: typeof createPassSketcher = createPassSketcher): PassSketch {
  let sketcher: PassSketcher | null = null;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const kept = new Map<string, Preview | PointsPreview | MeshPreview>();
  const keyOf = (frame: number, channel: string, part: number): string => `${String(frame)}/${channel}/${String(part)}`;
  const store = createStore<PassSketchState>(() => ({
    on: false,
    computing: false,
    pass: null,
    job: null,
    done: 0,
    frames: [],
    error: null,
  }));
  const { setState, getState } = store;

  const receive = (message: PassSketchMessage): void => {
    switch (message.kind) {
      case 'frame': {
        const { report, shown, previews } = message;
        for (const { part, channel, bytes } of previews) {
          const decoded = decodedOf(channel, bytes);
          if (decoded) kept.set(keyOf(report.frame, channel, part), decoded);
        }
        const frame: PassFrameDto = { frame: report.frame, inRange: true, stored: true, damage: null, bytes: 0, report };
        setState(({ frames, done }) => ({ done: done + 1, frames: shown ? [...frames, frame] : frames }));
        return;
      }
      case 'done':
        setState({ computing: false });
        return;
      case 'failed':
        setState({ computing: false, error: message.error });
        return;
    }
  };

  const refuse = (message: string): void => {
    sketcher?.stop();
    setState({ computing: false, error: { tag: 'refused', message, fields: {}, cause: null } });
  };

  return {
    ...store,
    show(pass, answer) {
      const first = !getState().on || getState().pass !== pass;
      setState({ on: true, pass });
      clearTimeout(timer);
      timer = setTimeout(
        () => {
          if ('problem' in answer) {
            refuse(answer.problem);
            return;
          }
          try {
            sketcher ??= make(threads, receive);
            kept.clear();
            const { plan, shown, inputs } = answer.job;
            setState({ computing: true, job: answer.job, done: 0, frames: [], error: null });
            sketcher.start({ plan, shown, inputs });
          } catch (error) {
            refuse(error instanceof Error ? error.message : String(error));
          }
        },
        first ? 0 : SETTLE,
      );
    },
    stop() {
      clearTimeout(timer);
      sketcher?.stop();
      kept.clear();
      setState({ on: false, computing: false, pass: null, job: null, done: 0, frames: [], error: null });
    },
    preview: (frame, channel, part = 0) => (kept.get(keyOf(frame, channel, part)) as Preview | undefined) ?? null,
    points: (frame, channel = 'points') => (kept.get(keyOf(frame, channel, 0)) as PointsPreview | undefined) ?? null,
    mesh: (frame) => (kept.get(keyOf(frame, 'mesh', 0)) as MeshPreview | undefined) ?? null,
  };
}

/** A Sketch of a pass as what looks at runs has it; null while it has not begun. */
export function asPassRun({ job, frames, computing, error }: PassSketchState, shot: ShotDto, pass: string): PassRunDto | null {
  if (!job) return null;
  const { plan, inputs, rung } = job;
  const [base] = [...shot.runs, ...shot.passRuns].filter((r) => r.id === inputs.cache?.run);
  if (!base) return null;
  return {
    ...base,
    id: PASS_SKETCH,
    number: 0,
    passId: pass,
    kind: plan.pass,
    rung,
    key: '',
    plan,
    inputs: Object.values(inputs).map((i) => i.run),
    state: computing ? 'running' : error ? 'failed' : 'done',
    error,
    frameCount: frames.length,
    framesDone: frames.length,
    damagedFrames: 0,
    missingFrames: 0,
    approved: false,
    restorable: false,
    prediction: null,
    notes: '',
  };
}
