import { readFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { RuddleError } from '#core/errors';
import { type FollowerReport, definitionOf, opsOf } from '#core/passes';
import {
  SHOT_VERSION,
  type ShotFile,
  type SurfaceSettings,
  isLiquidPlan,
  parseShotFile,
  parseWith,
  surfaceSettingsSchema,
} from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import { DiskGuard, filesOfFolder, geometryFolder, readRunRecord } from '#server/cache';
import { type RunningRun, type StoredFrame, startPassRun } from '#server/engine';
import type { Command } from './command';
import { EXIT, UsageError } from './exit';
import { chainOf } from './run-pass';

const HELP = `Makes a skin of triangles around cached particles, without a shot.

Usage: ruddle surface CACHE [CACHE] --out DIR [options]

CACHE is a folder of numbered .ply files of particles: of a run of Ruddle, or from anywhere. Of two, both are in one skin.

  --out DIR        surface.NNNN.ply (.obj, .glb), surface-distance.NNNN.vdb where it is kept, surface.json, run.json
  --stack FILE     settings of the surface (.json): distance, stack, walls, polygons, waves, files; as in a shot's pass
  --spacing M      how far apart particles of the bulk lie, metres: must be said of files that no liquid solve of Ruddle made
  --fps N          frames a second (24; of a run of Ruddle its own)
  --up y|z         the axis that is up in the files (y; of a run its own)
  --units M        metres in a unit of the files (1; of a run its own)
  --threads N      1 to 64 (all cores)
  --overwrite DIR  may replace what lies in DIR: a folder with files that this very run did not write is refused otherwise
  --json           one JSON object a line: frames with their figures as they are written, findings, then the outcome

What the particles of a run stand in (solids, closed walls of its limit box) the skin meets as it is set under "walls"; files from anywhere stand in nothing.`;

/** Metres from the middle: nothing from anywhere reaches the walls of a box as large. */
const FAR = 9000;

async function settingsOf(path: string | undefined): Promise<SurfaceSettings> {
  if (path === undefined) return surfaceSettingsSchema.parse({});
  const text = await readFile(path, 'utf8').catch((cause: unknown) => {
    throw new RuddleError('not-found', `There is no file ${path} that can be read.`, { what: path }, cause);
  });
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (cause) {
    throw new RuddleError('file-invalid', `${path} is no JSON.`, { file: path, reason: 'no JSON' }, cause);
  }
  return parseWith(surfaceSettingsSchema, value, path);
}

const numberOf = (name: string, text: string | undefined, low: number, high: number): number | null => {
  if (text === undefined) return null;
  const value = Number(text);
  if (!(value >= low && value <= high)) throw new UsageError(`${name} is ${text}; it can be ${String(low)} to ${String(high)}.`);
  return value;
};

interface Given {
  readonly settings: SurfaceSettings;
  readonly folders: readonly string[];
  readonly spacing: number | null;
  readonly framesPerSecond: number | null;
  readonly upAxis: 'y' | 'z' | null;
  readonly metresPerUnit: number | null;
}

/** A shot that has the caches and their skin: what is known of the first cache's run stands in it. */
async function shotOf({ settings, folders, spacing, framesPerSecond, upAxis, metresPerUnit }: Given): Promise<ShotFile> {
  const [first = '', second] = folders;
  const record = await readRunRecord(first);
  const plan = record?.plan;
  const liquid = plan?.pass === 'liquid' && isLiquidPlan(plan) ? plan : null;
  const input = (folder: string) => ({ pass: 'solve', rung: 'same', run: null, folder });
  const known = liquid ? opsOf(liquid).gives(liquid).spacing : undefined;
  const own = settings.distance.spacing ?? spacing ?? known ?? null;
  const skin = {
    id: 'skin',
    kind: 'surface',
    name: 'Skin',
    input: input(first),
    more: second === undefined ? null : input(second),
    settings: { ...settings, distance: { ...settings.distance, spacing: own } },
  };
  const solve = record?.settings.passes[0];
  const scene = record?.settings.scene;
  const open = { left: 'open', right: 'open', floor: 'open', ceiling: 'open', back: 'open', front: 'open' };
  const nothing = {
    id: 'solve',
    kind: 'liquid',
    name: 'Solve',
    settings: { bounds: { limit: { min: [-FAR, -FAR, -FAR], max: [FAR, FAR, FAR] }, walls: open } },
  };
  const scale = { ...(scene?.scale ?? {}), ...(upAxis === null ? {} : { upAxis }) };
  const file = {
    ruddle: SHOT_VERSION,
    name: record?.shot ?? 'Surface',
    framesPerSecond: framesPerSecond ?? (liquid ? liquid.options.framesPerSecond * liquid.options.timeScale : 24),
    firstFrame: liquid?.options.firstFrame ?? 1,
    lastFrame: Math.max(liquid?.options.lastFrame ?? 1, liquid?.options.firstFrame ?? 1),
    metresPerUnit: metresPerUnit ?? liquid?.file.metresPerUnit ?? 1,
    timeScale: liquid?.file.timeScale ?? 1,
    variants: [{ name: 'Surface', settings: { scene: { ...(liquid ? scene : {}), scale }, passes: [liquid ? solve : nothing, skin] } }],
  };
  return parseShotFile(JSON.stringify(file), 'the surface');
}

export const surfaceCommand: Command = {
  summary: 'makes a skin around cached particles',
  help: HELP,
  async run(args) {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        out: { type: 'string' },
        stack: { type: 'string' },
        spacing: { type: 'string' },
        fps: { type: 'string' },
        up: { type: 'string' },
        units: { type: 'string' },
        threads: { type: 'string' },
        overwrite: { type: 'string', multiple: true, default: [] },
        json: { type: 'boolean', default: false },
      },
    });
    if (positionals.length === 0 || positionals.length > 2)
      throw new UsageError('Name one or two folders: ruddle surface CACHE [CACHE] --out DIR');
    if (values.out === undefined) throw new UsageError('Say where the skin goes: --out DIR');
    if (values.up !== undefined && values.up !== 'y' && values.up !== 'z') throw new UsageError(`--up is ${values.up}; it can be y or z.`);
    const threads = numberOf('--threads', values.threads, 1, 64) ?? Math.min(64, availableParallelism());
    const out = resolve(values.out);
    const folders = positionals.map((p) => resolve(p));
    const shot = await shotOf({
      settings: await settingsOf(values.stack),
      folders,
      spacing: numberOf('--spacing', values.spacing, 1e-5, 1000),
      framesPerSecond: numberOf('--fps', values.fps, 1, 1000),
      upAxis: values.up ?? null,
      metresPerUnit: numberOf('--units', values.units, 1e-6, 1e6),
    });
    const [variant] = shot.variants;
    if (!variant) throw new RuddleError('internal', 'A surface without settings.', { where: 'surface' });
    const entry = (await chainOf(shot, variant)).entry('skin', 'final');
    if (entry.problem !== null)
      throw new RuddleError('settings-invalid', entry.problem, { issues: [{ path: '', message: entry.problem }] });
    const { plan, key, inputs } = entry;
    const files = await Promise.all(
      inputs.map(async (i) => [i.role, await filesOfFolder(i.folder ?? '', i.key, plan.gives.file)] as const),
    );
    const cache = files.find(([role]) => role === 'cache')?.[1];
    if (!cache) throw new RuddleError('internal', 'A surface reads nothing.', { where: 'surface' });
    const reports: FollowerReport[] = [];
    const onFrame = (f: StoredFrame<FollowerReport>): void => {
      reports.push(f.report);
      if (values.json) console.log(JSON.stringify({ kind: 'frame', ...f }));
      else
        console.error(
          `frame ${String(f.frame)}  ${definitionOf('surface').line(f.report)}  ${formatSeconds(f.report.totalSeconds)}  ${formatBytes(f.bytes)}`,
        );
    };
    let running: RunningRun | null = null;
    const interrupt = (): void => running?.cancel();
    process.on('SIGINT', interrupt);
    process.on('SIGTERM', interrupt);
    running = startPassRun({
      shot: shot.name,
      variant: variant.name,
      settings: variant.settings,
      plan,
      key,
      inputs: { ...Object.fromEntries(files), cache },
      folder: out,
      geometryFolder: geometryFolder(out),
      threads,
      disk: new DiskGuard(out),
      overwrite: values.overwrite.map((o) => resolve(o)),
      onFrame,
    });
    const outcome = await running.outcome;
    const skin = variant.settings.passes[1];
    const found = definitionOf('surface').checks(
      skin?.settings,
      [...reports].sort((a, b) => a.frame - b.frame),
    );
    for (const finding of found) {
      if (values.json) console.log(JSON.stringify({ kind: 'finding', ...finding }));
      else console.error(`! ${finding.title}\n    ${finding.text}`);
    }
    if (values.json) console.log(JSON.stringify({ kind: 'outcome', ...outcome }));
    if (outcome.state === 'cancelled') return EXIT.interrupted;
    if (!outcome.error) return EXIT.done;
    console.error(outcome.error.message);
    return outcome.frames === 0 ? EXIT.refused : EXIT.ended;
  },
};
