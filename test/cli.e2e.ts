import { type SpawnSyncReturns, spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { allProcessorSecondsOf } from './server-process';

const BIN = 'node_modules/.bin/ruddle';
let folder = '';
let shot = '';

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-cli-'));
  const file = JSON.parse(readFileSync('demo/kiln-stack.json', 'utf8')) as {
    lastFrame: number;
    preRoll: number;
    variants: { settings: { passes: { settings: { detail: { voxelSize: number } } }[] } }[];
  };
  file.lastFrame = 6;
  file.preRoll = 2;
  for (const v of file.variants) v.settings.passes[0]!.settings.detail.voxelSize *= 2;
  shot = join(folder, 'shot.json');
  writeFileSync(shot, JSON.stringify(file));
});
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

const ruddle = (...args: string[]): SpawnSyncReturns<string> => spawnSync(process.execPath, [BIN, ...args], { encoding: 'utf8' });

describe('the command line', () => {
  it('runs a shot: files, run.json, progress as JSON lines', () => {
    const out = join(folder, 'run');
    const r = ruddle('run', shot, '--out', out, '--rung', 'test', '--variant', 'Finer', '--threads', '2', '--json');
    expect(r.status).toBe(0);
    const lines = r.stdout
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l) as { kind: string; id?: string; frame: number; state: string });
    expect(lines.filter((l) => l.kind === 'frame').map((l) => l.frame)).toEqual([-1, 0, 1, 2, 3, 4, 5, 6]);
    // The stack's mouth is two voxels high at this rung: said, with what to do.
    expect(lines.some((l) => l.kind === 'finding' && l.id?.startsWith('small-source'))).toBe(true);
    expect(lines.at(-1)).toMatchObject({ kind: 'outcome', state: 'done' });
    expect(readdirSync(out).filter((f) => f.endsWith('.vdb'))).toHaveLength(6);
    expect(JSON.parse(readFileSync(join(out, 'run.json'), 'utf8'))).toMatchObject({
      variant: 'Finer',
      state: 'done',
      plan: { rung: 'test' },
    });

    const seen = ruddle('inspect', join(out, 'solve.0006.vdb'), '--json');
    expect(seen.status).toBe(0);
    const { grids } = JSON.parse(seen.stdout) as { grids: { name: string; activeVoxels: number; voxelSize: number[]; maximum: number }[] };
    expect(grids.map((g) => g.name)).toEqual(['density', 'temperature', 'vel']);
    expect(grids[0]!.voxelSize[0]).toBeCloseTo(0.3, 6);
    expect(grids[0]!.activeVoxels).toBeGreaterThan(20);
    expect(ruddle('inspect', join(out, 'solve.0006.vdb')).stdout).toMatch(/active voxels\s+\d+/);
  });

  it('computes a pass and what it reads, once; lists passes, and says which cannot be', () => {
    const file = JSON.parse(readFileSync(shot, 'utf8')) as { variants: { settings: { passes: object[] } }[] };
    const { passes } = file.variants[0]!.settings;
    const ash = { id: 'ash', kind: 'particles', name: 'Ash', input: { pass: 'coarse' }, settings: { perSecond: 24000 } };
    passes.splice(1, Infinity, { id: 'coarse', kind: 'resample', name: 'Coarse' }, ash);
    const path = join(folder, 'passes.json');
    writeFileSync(path, JSON.stringify(file));
    const listed = ruddle('passes', path, '--rung', 'test', '--json');
    expect(listed.status).toBe(0);
    expect(JSON.parse(listed.stdout)).toMatchObject([
      { id: 'coarse', reads: 'solve-test', frames: 6, problem: null },
      { id: 'ash', reads: 'coarse-test', frames: 6, problem: null },
    ]);
    const out = join(folder, 'night');
    const r = ruddle('run', path, '--pass', 'ash', '--rung', 'test', '--out', out, '--json');
    expect(r.status).toBe(0);
    const lines = r.stdout
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l) as { kind: string; pass: string; state: string });
    expect(lines.filter((l) => l.kind === 'outcome').map((l) => [l.pass, l.state])).toEqual([
      ['solve', 'done'],
      ['coarse', 'done'],
      ['ash', 'done'],
    ]);
    expect(readdirSync(join(out, 'ash-test')).filter((f) => f.endsWith('.ply'))).toHaveLength(6);
    expect(ruddle('verify', join(out, 'ash-test')).status).toBe(0);
    // What is whole is not computed again; what is damaged is.
    rmSync(join(out, 'ash-test', 'particles.0003.ply'));
    const again = ruddle('run', path, '--pass', 'ash', '--rung', 'test', '--out', out, '--json').stdout;
    expect(again.match(/"kind":"there","pass":"coarse"/)).not.toBeNull();
    expect(again.match(/"kind":"outcome","pass":"(\w+)"/g)).toEqual(['"kind":"outcome","pass":"ash"']);

    Object.assign((passes[0] as { settings: object }).settings, { keep: { vel: false } });
    writeFileSync(path, JSON.stringify(file));
    const cannot = ruddle('passes', path, '--rung', 'test');
    expect([cannot.status, cannot.stdout]).toEqual([3, expect.stringMatching(/ash +What it reads|ash +It needs velocity/)]);
    const refused = ruddle('run', path, '--pass', 'ash', '--rung', 'test', '--out', join(folder, 'none'));
    expect([refused.status, refused.stderr]).toEqual([3, expect.stringMatching(/velocity, which is not kept/)]);
    expect(ruddle('run', path, '--pass', 'nothing', '--out', join(folder, 'none')).stderr).toMatch(/There is no pass "nothing"/);
  });

  it('verifies a run: whole, then with a damaged and a missing file', () => {
    const out = join(folder, 'run');
    const whole = ruddle('verify', out, '--json');
    expect(whole.status).toBe(0);
    expect(JSON.parse(whole.stdout)).toMatchObject({ state: 'done', files: 24, damaged: [], missing: [], foreign: [] });
    writeFileSync(join(out, 'previews', 'mine.txt'), 'a note');
    expect(ruddle('verify', out).stdout).toMatch(/^foreign {2}previews\/mine\.txt$/m);
    rmSync(join(out, 'previews', 'mine.txt'));
    expect(ruddle('verify', out).stdout).toMatch(/^Kiln stack, Finer: done, 8 frames, 24 files \(.*B\), all as they were written\.$/m);
    const path = join(out, 'solve.0003.vdb');
    const bytes = readFileSync(path);
    bytes[bytes.length >> 1]! ^= 1;
    writeFileSync(path, bytes);
    rmSync(join(out, 'solve.0005.vdb'));
    const torn = ruddle('verify', out);
    expect(torn.status).toBe(3);
    expect(torn.stdout).toMatch(/damaged {2}solve\.0003\.vdb\nmissing {2}solve\.0005\.vdb\n.*2 of them not as they were written\./);
    const none = ruddle('verify', folder);
    expect([none.status, none.stderr]).toEqual([2, expect.stringMatching(/holds no run/) as string]);
  });

  it('computes a part of the range: writing begins where it is asked to', () => {
    const out = join(folder, 'part');
    const part = ruddle('run', shot, '--out', out, '--rung', 'sketch', '--frames', '3-4');
    expect(part.status).toBe(0);
    expect(part.stderr).toMatch(/! Stack mouth is [\d.]+ voxels across[^]*remedy: Voxel size/);
    expect(
      readdirSync(out)
        .filter((f) => f.endsWith('.vdb'))
        .sort(),
    ).toEqual(['solve.0003.vdb', 'solve.0004.vdb']);
  });

  it('Ctrl+C ends within a second and leaves whole frames only', async () => {
    const long = JSON.parse(readFileSync(shot, 'utf8')) as { lastFrame: number };
    long.lastFrame = 900;
    const file = join(folder, 'long.json');
    writeFileSync(file, JSON.stringify(long));
    const out = join(folder, 'long');
    const child = spawn(process.execPath, [BIN, 'run', file, '--out', out], { stdio: 'ignore' });
    while (!existsSync(join(out, 'solve.0003.vdb'))) await new Promise((r) => setTimeout(r, 30));
    const exited = new Promise<number | null>((resolve) => child.on('exit', resolve));
    const began = allProcessorSecondsOf(child.pid!)!;
    let used = began;
    child.kill('SIGINT');
    for (let now: number | null = began; now !== null; now = allProcessorSecondsOf(child.pid!)) {
      used = now;
      await new Promise((r) => setTimeout(r, 10));
    }
    // Of two threads, whatever else the machine does: the 900 frames take minutes of them.
    expect(used - began).toBeLessThan(2);
    expect(await exited).toBe(130);
    const files = readdirSync(out);
    expect(files.some((f) => f.endsWith('.part'))).toBe(false);
    for (const f of files.filter((x) => x.endsWith('.vdb'))) expect(ruddle('inspect', join(out, f)).status).toBe(0);
    expect(JSON.parse(readFileSync(join(out, 'run.json'), 'utf8'))).toMatchObject({ state: 'cancelled' });
  });

  it('answers bad input with what is wrong and a documented code', () => {
    const wrong = join(folder, 'wrong.json');
    writeFileSync(wrong, JSON.stringify({ ruddle: 1, name: '', variants: [{ name: 'A', settings: { detail: { voxelSize: 0 } } }] }));
    const r = ruddle('run', wrong, '--out', folder);
    expect(r.status).toBe(3);
    expect(r.stderr).toContain('variants[0].settings.detail.voxelSize: found 0');
    expect(r.stderr).toContain('name: found ""');
    expect(ruddle('run', shot).status).toBe(2);
    expect(ruddle('run', shot, '--out', folder, '--rung', 'huge').stderr).toContain('sketch, test or final');
    expect(ruddle('run', shot, '--out', folder, '--variant', 'Nobody').stderr).toContain('"Coarse", "Finer"');
    expect(ruddle('run', join(folder, 'none.json'), '--out', folder).status).toBe(2);
    expect(ruddle('run', shot, '--out', folder, '--frames', '4-90').status).toBe(2);
    expect(ruddle('inspect', shot).status).toBe(3);
    expect(ruddle('dance').status).toBe(2);
    const fixed = JSON.parse(readFileSync(shot, 'utf8')) as {
      variants: { settings: { passes: { settings: { detail: { voxelSize: number }; bounds: { mode: string } } }[] } }[];
    };
    const { settings } = fixed.variants[0]!.settings.passes[0]!;
    settings.detail.voxelSize = 0.004;
    settings.bounds.mode = 'fixed';
    writeFileSync(wrong, JSON.stringify(fixed));
    const refused = ruddle('run', wrong, '--out', join(folder, 'refused'));
    expect(refused.status).toBe(4);
    expect(refused.stderr).toContain('do not fit into memory');
  });

  it('imports geometry, and runs a shot that needs it: from a folder and from a bundle', () => {
    const place = join(folder, 'with-geometry');
    mkdirSync(place);
    const imported = ruddle('import', 'demo/jaw.obj', '--out', join(place, 'geometry'), '--unit', 'centimetre');
    expect(imported.status).toBe(0);
    expect(imported.stdout).toContain('164 triangles, taken to be in centimetres');
    const shape = JSON.parse(imported.stdout.slice(imported.stdout.indexOf('{'))) as { geometry: string };
    const settings = {
      detail: { voxelSize: 0.1 },
      bounds: { limit: { min: [-1, -1, -1], max: [1, 1.4, 1] } },
      sources: [{ shape: { kind: 'ball', centre: [-0.6, 0, 0], radius: 0.3 } }],
      solids: [{ name: 'Jaw', shape }],
    };
    const file = join(place, 'jaw.json');
    writeFileSync(file, JSON.stringify({ ruddle: 1, name: 'Jaw', lastFrame: 3, variants: [{ name: 'One', settings }] }));
    expect(ruddle('run', file, '--out', join(place, 'out')).status).toBe(0);
    const name = `geometry/${shape.geometry}.geometry`;
    const zip = zipSync({ 'shot.json': readFileSync(file), [name]: readFileSync(join(place, name)) });
    writeFileSync(join(place, 'jaw.zip'), zip);
    expect(ruddle('run', join(place, 'jaw.zip'), '--out', join(place, 'bundled')).status).toBe(0);
    expect(readFileSync(join(place, 'bundled', 'solve.0003.vdb')).equals(readFileSync(join(place, 'out', 'solve.0003.vdb')))).toBe(true);
    rmSync(join(place, 'geometry'), { recursive: true });
    const missing = ruddle('run', file, '--out', join(place, 'missing'));
    expect(missing.status).not.toBe(0);
    expect(missing.stderr).toMatch(/imported geometry .* is missing/);
    expect(ruddle('import', file).stderr).toContain('.obj .ply .stl .glb');
    expect(ruddle('import', 'demo/jaw.obj', '--unit', 'yard').status).toBe(2);
  });

  it('helps, and prints the schema', () => {
    expect(ruddle('--help').stdout).toContain('Exit codes');
    expect(ruddle('run', '--help').stdout).toContain('--variant');
    const schema = JSON.parse(ruddle('schema').stdout) as { properties: Record<string, unknown> };
    expect(Object.keys(schema.properties)).toContain('variants');
  });
});
