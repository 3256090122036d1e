import { mkdir, open, readFile, rename, rm } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { basename, dirname, join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { findAll } from '#core/checks';
import { RuddleError } from '#core/errors';
import { isZip } from '#core/formats';
import type { SolveReport } from '#core/passes';
import { RUNGS, type Rung, type ShotFile, parseShotFile, planToRun, solveOf } from '#core/shot';
import { formatBytes, formatCount, formatSeconds } from '#core/units';
import { DiskGuard, geometryFolder, geometryPath, makeFolder } from '#server/cache';
import { leftInFolder, type RunningRun, startRun, type StoredFrame } from '#server/engine';
import { runImport } from '#workers/node';
import type { Command } from './command';
import { EXIT, UsageError } from './exit';
import { findingText } from './findings';
import { framesOf } from './frames';
import { runPass } from './run-pass';
import { pickVariant } from './variant';

const HELP = `Computes a shot without a server or a browser.

Usage: ruddle run SHOT --out DIR [options]

SHOT is a shot file (.json), with imported geometry in a folder geometry/ beside it, or a bundle of both (.zip).

  --out DIR         folder for the cache: solve.NNNN.vdb (liquid: .ply), previews/, run.json (made when it is not there)
  --variant NAME    which variant of the shot (the first one)
  --rung RUNG       sketch, test or final: voxel size x4, x2, x1 (final)
  --pass ID         computes this pass of the variant, and before it what it reads; each into a folder of its own in DIR:
                    solve-test/, ID-test/. What is there whole is not computed again. all: every pass that is switched on
  --frames A-B      only up to frame B; a frame needs all before it, so A is where writing begins (the shot's range)
  --threads N       1 to 64 (all cores)
  --overwrite DIR   may replace what lies in DIR (or below it): a folder with files that this very run did not write is refused otherwise
  --json            one JSON object a line on standard output: frames as they are written, findings, then the outcome

A run that was interrupted or killed goes on where it was when the same line is given again.

After the last frame it says what the checks found: what, at which frames, the likely cause, and the remedy.`;

const MAX_THREADS = 64;

interface RunArguments {
  readonly file: string;
  readonly variant: string | null;
  readonly rung: Rung;
  /** null: the solve. */
  readonly pass: string | null;
  readonly frames: readonly [number, number] | null;
  readonly threads: number;
  readonly out: string;
  readonly overwrite: readonly string[];
  readonly json: boolean;
}

export function parseRunArguments(args: readonly string[]): RunArguments {
  const { values, positionals } = parseArgs({
    args: [...args],
    allowPositionals: true,
    options: {
      variant: { type: 'string' },
      rung: { type: 'string', default: 'final' },
      pass: { type: 'string' },
      frames: { type: 'string' },
      threads: { type: 'string' },
      out: { type: 'string' },
      overwrite: { type: 'string', multiple: true, default: [] },
      json: { type: 'boolean', default: false },
    },
  });
  const file = positionals[0];
  if (file === undefined || positionals.length > 1) throw new UsageError('Name one shot file: ruddle run SHOT.json --out DIR');
  if (values.out === undefined) throw new UsageError('Say where the cache goes: --out DIR');
  if (!Object.hasOwn(RUNGS, values.rung)) throw new UsageError(`--rung is ${values.rung}; it can be sketch, test or final.`);
  const frames = framesOf(values.frames);
  if (values.pass !== undefined && values.rung === 'sketch') throw new UsageError('A Sketch has no passes: --rung can be test or final.');
  if (values.pass !== undefined && frames) throw new UsageError('A pass is computed over its whole range: leave out --frames.');
  const threads = values.threads === undefined ? Math.min(MAX_THREADS, availableParallelism()) : Number(values.threads);
  if (!Number.isInteger(threads) || threads < 1 || threads > MAX_THREADS) {
    throw new UsageError(`--threads is ${String(values.threads)}; it can be 1 to ${String(MAX_THREADS)}.`);
  }
  return {
    file,
    variant: values.variant ?? null,
    rung: values.rung as Rung,
    pass: values.pass ?? null,
    frames,
    threads,
    out: resolve(values.out),
    overwrite: values.overwrite.map((o) => resolve(o)),
    json: values.json,
  };
}

/** A shot, and the folder where its imported geometry lies; that of a bundle is laid into the run's folder. */
async function readShot(file: string, out: string, signal: AbortSignal): Promise<{ shot: ShotFile; geometryFolder: string }> {
  const bytes = await readFile(file).catch((cause: unknown) => {
    throw new RuddleError('not-found', `There is no file ${file} that can be read.`, { what: file }, cause);
  });
  if (!isZip(bytes)) return { shot: parseShotFile(bytes.toString('utf8'), file), geometryFolder: geometryFolder(dirname(resolve(file))) };
  const folder = geometryFolder(out);
  await makeFolder(folder);
  const unpacked = join(folder, `.unpacking-${String(process.pid)}`);
  await mkdir(unpacked);
  try {
    const { shot, hashes } = await runImport({ kind: 'unpack', input: resolve(file), file: basename(file), folder: unpacked }, { signal });
    for (const hash of hashes) await rename(join(unpacked, hash), geometryPath(folder, hash));
    return { shot: parseShotFile(shot, `${file}/shot.json`), geometryFolder: folder };
  } finally {
    await rm(unpacked, { recursive: true, force: true });
  }
}

/** Makes the folder, and finds out now whether it can be written: nothing should be computed for nothing. */
async function writable(folder: string): Promise<void> {
  await makeFolder(folder);
  const probe = join(folder, `.probe-${String(process.pid)}`);
  await (await open(probe, 'w')).close();
  await rm(probe);
}

function withFrames(shot: ShotFile, frames: readonly [number, number] | null): ShotFile {
  if (!frames) return shot;
  const [from, to] = frames;
  if (from > to || from < shot.firstFrame || to > shot.lastFrame) {
    throw new UsageError(
      `--frames ${String(from)}-${String(to)} does not lie within ${String(shot.firstFrame)}-${String(shot.lastFrame)}.`,
    );
  }
  return { ...shot, lastFrame: to };
}

export const runCommand: Command = {
  summary: 'computes a shot into a folder',
  help: HELP,
  async run(args) {
    const a = parseRunArguments(args);
    // Heard from the first moment: reading a shot may take a while too.
    const stop = new AbortController();
    let running: RunningRun | null = null;
    const interrupt = (): void => {
      stop.abort();
      running?.cancel();
    };
    process.on('SIGINT', interrupt);
    process.on('SIGTERM', interrupt);
    await writable(a.out);
    const read = await readShot(a.file, a.out, stop.signal);
    const shot = withFrames(read.shot, a.frames);
    const variant = pickVariant(shot, a.variant);
    if (a.pass !== null && a.rung !== 'sketch') {
      const outcome = await runPass({
        shot,
        variant,
        pass: a.pass,
        rung: a.rung,
        out: a.out,
        geometryFolder: read.geometryFolder,
        threads: a.threads,
        overwrite: a.overwrite,
        json: a.json,
        running: (run) => {
          running = run;
          if (stop.signal.aborted) run.cancel();
        },
      });
      if (stop.signal.aborted) return EXIT.interrupted;
      if (!outcome?.error) return EXIT.done;
      console.error(outcome.error.message);
      return outcome.frames === 0 ? EXIT.refused : EXIT.ended;
    }
    const plan = planToRun(shot, solveOf(variant.settings), a.rung);
    const first = plan.options.firstFrame - plan.options.preRoll;
    const total = plan.options.lastFrame - first + 1;
    const terminal = process.stderr.isTTY && !a.json;
    const began = Date.now();
    const reports: SolveReport[] = [];
    let bytes = 0;
    const onFrame = (f: StoredFrame<SolveReport>): void => {
      const { report } = f;
      reports.push(report);
      bytes += f.bytes;
      if (a.json) console.log(JSON.stringify({ kind: 'frame', ...f }));
      else if (!terminal) {
        console.error(
          `frame ${String(f.frame)}${f.inRange ? '' : ' (pre-roll)'}  ${formatCount(report.activeVoxels)} voxels  ${String(report.substepsUsed)} substeps  ${formatSeconds(report.totalSeconds)}  ${formatBytes(f.bytes)}`,
        );
      }
    };
    const onProgress = (frame: number, part: number): void => {
      if (!terminal) return;
      const share = (reports.length + part) / total;
      const left = share > 0 ? ((Date.now() - began) / 1000) * (1 / share - 1) : 0;
      process.stderr.write(`\r\x1b[Kframe ${String(frame)}  ${(share * 100).toFixed(0)} %  ${formatSeconds(left)} left`);
    };
    const left = await leftInFolder(a.out, plan, a.frames?.[0] ?? null);
    for (const { report, bytes: of } of left?.frames ?? []) {
      reports.push(report as SolveReport);
      bytes += of;
    }
    if (left && !a.json) console.error(`${String(left.frames.length)} frames are there already: it goes on from them.`);
    if (stop.signal.aborted) throw new RuddleError('cancelled', 'Interrupted before the first frame.', {});
    running = startRun({
      shot: shot.name,
      variant: variant.name,
      settings: variant.settings,
      plan,
      folder: a.out,
      geometryFolder: read.geometryFolder,
      threads: a.threads,
      disk: new DiskGuard(a.out),
      overwrite: a.overwrite,
      states: 'meanwhile',
      ...(left ? { resume: left } : {}),
      onFrame,
      onProgress,
      ...(a.frames ? { writeFrom: a.frames[0] } : {}),
    });
    const outcome = await running.outcome;
    if (terminal) process.stderr.write('\r\x1b[K');
    const spent = { seconds: reports.reduce((n, r) => n + r.totalSeconds, 0), bytes };
    const findings =
      reports.length > 0 ? findAll({ shot, settings: solveOf(variant.settings), plan, reports, prediction: null, spent }) : [];
    if (a.json) {
      for (const finding of findings) console.log(JSON.stringify({ kind: 'finding', ...finding }));
      console.log(JSON.stringify({ kind: 'outcome', ...outcome }));
    } else for (const finding of findings) console.error(findingText(finding));
    if (stop.signal.aborted || outcome.state === 'cancelled') {
      if (!a.json) console.error(`Interrupted. ${String(outcome.frames)} whole frames are in ${a.out}.`);
      return EXIT.interrupted;
    }
    if (outcome.error) {
      console.error(outcome.error.message);
      const refused = outcome.frames === 0 && ['arena-too-small', 'disk-full', 'refused'].includes(outcome.error.tag);
      return refused ? EXIT.refused : outcome.error.tag === 'internal' ? EXIT.internal : EXIT.ended;
    }
    if (!a.json) console.error(`${String(outcome.frames)} frames in ${formatSeconds((Date.now() - began) / 1000)}: ${a.out}`);
    return EXIT.done;
  },
};
