import { type SpawnSyncReturns, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SHOT_VERSION } from '#core/shot';
import { type ServerProcess, startServer } from './server-process';
import { settingsOf } from '../src/testing/values/index';

let folder = '';
let shot = '';
let server: ServerProcess;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-line-'));
  const file = {
    ruddle: SHOT_VERSION,
    name: 'Drying rack',
    lastFrame: 5,
    variants: [
      {
        name: 'First',
        settings: settingsOf(
          {
            detail: { voxelSize: 0.1 },
            bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
            sources: [{ shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 } }],
          },
          [
            { id: 'coarse', kind: 'resample', name: 'Coarse' },
            { id: 'look', kind: 'stills', name: 'Look', input: { pass: 'coarse' } },
            { id: 'off', kind: 'stills', name: 'Off', enabled: false },
          ],
        ),
      },
    ],
  };
  shot = join(folder, 'shot.json');
  writeFileSync(shot, JSON.stringify(file));
  server = await startServer({ RUDDLE_PORT: '0', RUDDLE_DATA: join(folder, 'data'), RUDDLE_DEMO: '0', RUDDLE_CALIBRATE: '0' });
  const added = await fetch(`${server.address}/api/shots`, {
    method: 'POST',
    body: JSON.stringify(file),
    headers: { 'content-type': 'application/json' },
  });
  expect(added.status).toBe(200);
});
afterAll(async () => {
  await server.stop();
  rmSync(folder, { recursive: true, force: true });
});

const ruddle = (...args: string[]): SpawnSyncReturns<string> =>
  spawnSync(process.execPath, ['node_modules/.bin/ruddle', ...args], { encoding: 'utf8' });
const lines = (...args: string[]): { readonly [key: string]: unknown; readonly state: string }[] => {
  const r = ruddle('queue', '--server', server.address, '--json', ...args);
  expect(r.stderr).toBe('');
  return JSON.parse(r.stdout) as { readonly state: string }[];
};

describe('a night in one line', () => {
  it('puts the solve and every pass that is on in line, once, and tells what is left', async () => {
    expect(ruddle('queue', '--server', server.address).stdout).toBe('Nothing is computed and nothing waits.\n');
    const put = lines('drying-rack', '--rung', 'test', '--pass', 'all');
    expect(put.map((l) => [l['run'], l['pass'], l['rung'], l['of']])).toEqual([
      [1, 'solve', 'test', 5],
      [2, 'coarse', 'test', 5],
      [3, 'look', 'test', 5],
    ]);
    while (lines().length > 0) await new Promise((resolve) => setTimeout(resolve, 300));
    // All of it is there: nothing is computed twice.
    expect(lines('drying-rack', '--rung', 'test', '--pass', 'all').map((l) => [l['run'], l.state])).toEqual([
      [1, 'done'],
      [2, 'done'],
      [3, 'done'],
    ]);
    expect(lines()).toEqual([]);
    // One by its name is computed again.
    expect(lines('drying-rack', '--rung', 'test', '--pass', 'look')).toMatchObject([{ run: 4, pass: 'look' }]);
  });

  it('says what cannot be', () => {
    const codes = [
      ['queue', 'no-such', '--server', server.address],
      ['queue', 'drying-rack', '--server', server.address, '--pass', 'none'],
      ['queue', 'drying-rack', '--server', server.address, '--variant', 'Second'],
      ['queue', '--server', 'http://127.0.0.1:9'],
      ['queue', '--server', 'here'],
    ].map((args) => [ruddle(...args).status, ruddle(...args).stderr]);
    expect(codes).toEqual([
      [2, 'There is no such shot.\n'],
      [3, expect.stringMatching(/There is no pass "none"/)],
      [2, expect.stringMatching(/no variant "Second"; it has "First"/)],
      [4, expect.stringMatching(/Nothing answers at http:\/\/127\.0\.0\.1:9\. Start the application: npm start/)],
      [2, expect.stringMatching(/--server is here/)],
    ]);
  });

  it('without a server: all passes into one folder, exported under other names, freed, and computed again to the same bytes', () => {
    const out = join(folder, 'night');
    expect(ruddle('run', shot, '--pass', 'all', '--rung', 'test', '--out', out).status).toBe(0);
    expect(readdirSync(out).sort()).toEqual(['coarse-test', 'look-test', 'solve-test']);
    const solve = join(out, 'solve-test');
    const fourth = readFileSync(join(solve, 'solve.0004.vdb'));

    const away = join(folder, 'away');
    const copied = ruddle('export', solve, '--out', away, '--name', 'puff', '--frames', '2-4', '--json');
    expect(JSON.parse(copied.stdout)).toMatchObject({ files: ['puff.0002.vdb', 'puff.0003.vdb', 'puff.0004.vdb'] });
    expect(readdirSync(away)).toEqual(['puff.0002.vdb', 'puff.0003.vdb', 'puff.0004.vdb']);
    expect(readFileSync(join(away, 'puff.0004.vdb')).equals(fourth)).toBe(true);
    const twice = ruddle('export', solve, '--out', away, '--name', 'puff');
    expect([twice.status, twice.stderr]).toEqual([4, expect.stringMatching(/holds puff\.0002\.vdb, which would be replaced.*--overwrite/)]);
    expect(existsSync(join(away, 'puff.0001.vdb'))).toBe(false);
    const torn = Buffer.from(fourth);
    torn[torn.length >> 1]! ^= 1;
    writeFileSync(join(solve, 'solve.0004.vdb'), torn);
    const damaged = ruddle('export', solve, '--out', join(folder, 'torn'));
    expect([damaged.status, damaged.stderr]).toEqual([3, expect.stringMatching(/solve\.0004\.vdb is not what was written/)]);
    expect(readdirSync(join(folder, 'torn'))).not.toContain('solve.0004.vdb');

    writeFileSync(join(solve, 'mine.txt'), 'a note');
    const would = JSON.parse(ruddle('free', solve, '--dry-run', '--json').stdout) as { files: number; bytes: number };
    expect(would.bytes).toBeGreaterThan(fourth.length);
    expect(existsSync(join(solve, 'solve.0004.vdb'))).toBe(true);
    expect(JSON.parse(ruddle('free', solve, '--json').stdout)).toEqual(would);
    expect(readdirSync(solve, { recursive: true }).sort()).toEqual(['mine.txt', 'previews', 'run.json']);
    expect(ruddle('export', solve, '--out', away, '--overwrite', away).stderr).toMatch(/nothing to export/);

    expect(ruddle('run', shot, '--pass', 'all', '--rung', 'test', '--out', out).stderr).toMatch(/holds mine\.txt/);
    expect(ruddle('run', shot, '--pass', 'all', '--rung', 'test', '--out', out, '--overwrite', solve).status).toBe(0);
    expect(readFileSync(join(solve, 'solve.0004.vdb')).equals(fourth)).toBe(true);
    const record = JSON.parse(readFileSync(join(solve, 'run.json'), 'utf8')) as object;
    writeFileSync(join(solve, 'run.json'), JSON.stringify({ ...record, state: 'running' }));
    expect(ruddle('free', solve).status).toBe(4);
    expect(existsSync(join(solve, 'solve.0004.vdb'))).toBe(true);
    expect(ruddle('free', solve, '--force').status).toBe(0);
  });
});
