import { mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { type RunRecord, claimExport, claimOutput, freeRun, readRunRecord, sweepRun } from '.';

let root = '';
let folder = '';
beforeEach(() => {
  root = mkdtempSync(join(tmpdir(), 'ruddle-output-'));
  folder = join(root, 'run');
});
afterEach(() => {
  rmSync(root, { recursive: true, force: true });
});

/** A run of a kind with two frames, as its folder holds it. */
function run(more: Partial<RunRecord> = {}, files: readonly string[] = ['surface.0001.ply', 'surface.0002.ply']): void {
  mkdirSync(join(folder, 'previews'), { recursive: true });
  for (const f of files) if (!f.startsWith('..')) writeFileSync(join(folder, f), 'frame');
  const frames = files.map((file, n) => ({ frame: n + 1, bytes: 5, files: [{ file, bytes: 5, checksum: '' }], report: {} }));
  const startedAt = new Date(Date.now() - 60_000).toISOString();
  const record = {
    ruddle: 2,
    shot: 'Slip',
    variant: 'One',
    key: 'mine',
    state: 'done',
    startedAt,
    plan: { pass: 'surface' },
    frames,
    ...more,
  };
  writeFileSync(join(folder, 'run.json'), JSON.stringify(record));
}
const rules = {
  key: 'mine',
  range: [1, 2] as readonly [number, number],
  reads: [] as string[],
  kept: new Set<string>(),
  overwrite: [] as string[],
};
const claim = (more: Partial<typeof rules> = {}): Promise<string> =>
  claimOutput(folder, { ...rules, ...more }).then(
    (record) => (record ? 'replaces the earlier run' : 'empty'),
    (error: Error) => error.message,
  );

describe('the folder of a run', () => {
  it('is free where nothing is, and again where the very same run was, with frames that no record lists', async () => {
    expect(await claim()).toBe('empty');
    run();
    writeFileSync(join(folder, 'surface.0003.ply.part'), 'half');
    expect(await claim()).toBe('replaces the earlier run');
  });

  it('is refused where another run was, where other files lie, where frames lie outside the range; and taken when it is named', async () => {
    run({ key: 'another' });
    expect(await claim()).toMatch(/holds another run \(Slip, One: 2 frames\).*--overwrite /);
    run();
    expect(await claim({ range: [2, 2] })).toMatch(/holds 1 frame of this run outside 2-2/);
    writeFileSync(join(folder, 'notes.txt'), 'mine');
    expect(await claim()).toMatch(/holds notes\.txt, which this run did not write/);
    for (const named of [folder, root]) expect(await claim({ overwrite: [named] })).toBe('replaces the earlier run');
    expect(await claim({ overwrite: [join(folder, 'previews')] })).toMatch(/notes\.txt/);
    // A file of its names that was there before it began is none of its own.
    rmSync(join(folder, 'notes.txt'));
    writeFileSync(join(folder, 'surface.0009.ply'), 'older');
    utimesSync(join(folder, 'surface.0009.ply'), 1000, 1000);
    expect(await claim()).toMatch(/holds surface\.0009\.ply/);
  });

  it('is never its own input, by whatever name', async () => {
    run();
    const link = join(root, 'link');
    symlinkSync(folder, link);
    const away = join(root, 'away');
    mkdirSync(away);
    symlinkSync(join(folder, 'surface.0001.ply'), join(away, 'grain.1.ply'));
    for (const reads of [[folder], [link], [away]]) expect(await claim({ reads, overwrite: [folder] })).toMatch(/holds this run's input/);
    mkdirSync(join(root, 'other'));
    expect(await claim({ reads: [join(root, 'other')] })).toBe('replaces the earlier run');
    rmSync(join(folder, 'previews'), { recursive: true });
    symlinkSync(away, join(folder, 'previews'));
    expect(await claim({ overwrite: [folder] })).toMatch(/has "previews" as a link/);
  });

  it('of a run that goes on is its own, also with notes beside its frames and a damaged record', async () => {
    run();
    writeFileSync(join(folder, 'notes.txt'), 'mine');
    writeFileSync(join(folder, 'run.json'), '{');
    expect(await claim({ kept: new Set(['surface.0001.ply']) })).toBe('empty');
  });
});

describe('sweeping and freeing', () => {
  it('touch what the run wrote and nothing else, wherever a record leads', async () => {
    writeFileSync(join(root, 'precious.ply'), 'precious');
    run({}, ['surface.0001.ply', '../precious.ply']);
    writeFileSync(join(folder, 'solve.0001.ply'), 'of another kind');
    writeFileSync(join(folder, 'previews', 'surface.1.mesh.preview'), 'view');
    const record = (await readRunRecord(folder))!;
    expect(await sweepRun(folder, new Set(['surface.0001.ply', 'run.json']), record)).toEqual(['previews/surface.1.mesh.preview']);
    await freeRun(folder, record);
    expect(readdirSync(folder).sort()).toEqual(['previews', 'run.json', 'solve.0001.ply']);
    expect(readFileSync(join(root, 'precious.ply'), 'utf8')).toBe('precious');
  });
});

describe('the folder of an export', () => {
  it('may hold other files, but none of the same name, no run, and not the exported files', async () => {
    run();
    const out = join(root, 'out');
    mkdirSync(out);
    writeFileSync(join(out, 'slip.0001.ply'), 'before');
    const may = (to: string, file: string, overwrite: string[] = []): Promise<string> =>
      claimExport(to, [join(to, file)], folder, overwrite).then(
        () => 'yes',
        (error: Error) => error.message,
      );
    expect(await may(out, 'slip.0002.ply')).toBe('yes');
    expect(await may(out, 'slip.0001.ply')).toMatch(/holds slip\.0001\.ply, which would be replaced/);
    expect(await may(out, 'slip.0001.ply', [out])).toBe('yes');
    expect(await may(folder, 'slip.0001.ply', [folder])).toMatch(/is where these files lie/);
    writeFileSync(join(out, 'run.json'), readFileSync(join(folder, 'run.json')));
    expect(await may(out, 'slip.0002.ply')).toMatch(/holds a run/);
  });
});
