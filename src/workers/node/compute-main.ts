import { RuddleError, toErrorData } from '#core/errors';
import type { SolveReport } from '#core/passes';
import { isLiquidPlan, optionsOf } from '#core/shot';
import { createTeam } from '#kernels';
import type { ComputeMessage, ComputeStart } from '#protocol';
import { readGeometries } from './geometries';
import { startHelperThread } from './helpers';
import { living, pulse } from './living';
import { type SolvedFrame, solveFrames } from './solve-frames';
import { StatePace } from './state-pace';
import { waitedSince } from './waiting';
import { warmUp } from '#workers/common';

/** Frames that may be on their way to the disk before the worker waits. */
const AHEAD = 2;
/** Progress within a frame is told at most this often, seconds. */
const TELL_EVERY = 0.1;

type FrameSent = Extract<ComputeMessage, { kind: 'frame' }>;

/** The body of a compute worker: solves, encodes, hands frames over. */
export function computeMain(start: ComputeStart, send: (message: ComputeMessage, transfer: ArrayBuffer[]) => void): void {
  const { plan, bounds, threads } = start;
  const options = optionsOf(plan)[bounds] ?? plan.options;
  const written = new Int32Array(start.written);
  const clock = (): number => performance.now() / 1000;
  const alive = pulse(clock, () => {
    send({ kind: 'alive' }, []);
  });
  const made = createTeam({
    threads,
    control: start.control,
    startHelper: startHelperThread,
    ...(start.arenaBytes === null ? {} : { arenaBytes: start.arenaBytes }),
  });
  const team = living(made, alive);
  const have = new Set(start.have);
  const until = start.until ?? options.lastFrame;
  let told = 0;
  let handed = 0;
  try {
    warmUp(isLiquidPlan(plan) ? 'liquid' : 'gas');
    const geometries = readGeometries(start.geometry);
    const frames = solveFrames(start, {
      team,
      clock,
      geometries,
      progress: (frame, part) => {
        if (clock() - told < TELL_EVERY) return;
        told = clock();
        send({ kind: 'progress', frame, part }, []);
      },
    });
    const pace = new StatePace(clock());
    const waited = waitedSince();
    for (const frame of frames) {
      const began = clock();
      // A disk that is slower than the solver is waited for here, and the wait counts as writing; what the disk does meanwhile costs no time.
      while (handed - Atomics.load(written, 0) > AHEAD && !team.cancelled()) {
        Atomics.wait(written, 0, Atomics.load(written, 0), 100);
      }
      const encoded = encodeFrame(frame, start, began);
      const message = { ...encoded, report: { ...encoded.report, waitedSeconds: waited() }, state: stateAfter(frame, pace) };
      send(message, buffers([message.file, message.volumes, message.state, ...message.previews.map((p) => p.bytes)]));
      handed++;
      if (frame.report.frame >= until) break;
      if (team.cancelled()) throw new RuddleError('cancelled', 'The run was cancelled.', {});
    }
    send({ kind: 'done' }, []);
  } catch (error) {
    send({ kind: 'failed', error: toErrorData(error) }, []);
  } finally {
    team.stop();
  }

  function stateAfter({ report, state }: SolvedFrame, pace: StatePace): Uint8Array<ArrayBuffer> | null {
    const began = clock();
    // After the last frame too: what is added to the range later goes on from there.
    if (!start.states || (report.frame < until && !pace.due(began, report.memoryBytes))) return null;
    const bytes = state();
    pace.took(clock() - began, bytes.length, clock());
    return bytes;
  }

  function encodeFrame(frame: SolvedFrame, { plan: { keep }, writeFrom }: ComputeStart, began: number): Omit<FrameSent, 'state'> {
    const { report, inRange } = frame;
    if ((!inRange && !keep.preRoll) || (writeFrom !== null && report.frame < writeFrom) || have.has(report.frame))
      return { kind: 'frame', report, inRange, file: null, previews: [], volumes: null };
    const encoded = frame.encode();
    return { kind: 'frame', report: withWriting(report, clock() - began), inRange, ...encoded };
  }
}

/** A report with what its writing took. */
const withWriting = <R extends SolveReport>(report: R, took: number): R => ({
  ...report,
  seconds: { ...report.seconds, writing: report.seconds.writing + took },
  totalSeconds: report.totalSeconds + took,
});

/** Whole buffers that can be handed over without a copy; views into larger ones are copied instead. */
function buffers(views: readonly (Uint8Array<ArrayBuffer> | null)[]): ArrayBuffer[] {
  return views.flatMap((v) => (v && v.byteLength === v.buffer.byteLength ? [v.buffer] : []));
}
