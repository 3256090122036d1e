import { type SpawnSyncReturns, spawn, spawnSync } from 'node:child_process';
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const BIN = 'node_modules/.bin/ruddle';
let folder = '';

const small = (lastFrame: number): string =>
  JSON.stringify({
    ruddle: 3,
    name: 'Puff',
    lastFrame,
    variants: [
      {
        name: 'One',
        settings: {
          detail: { voxelSize: 0.2 },
          bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
          sources: [{ shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 } }],
        },
      },
    ],
  });

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-cli-hold-'));
});
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

/** A time is given only so that what never comes back fails. */
const ruddle = (...args: string[]): SpawnSyncReturns<string> =>
  spawnSync(process.execPath, [BIN, ...args], { encoding: 'utf8', timeout: 60_000 });
const write = (name: string, text: string): string => {
  const path = join(folder, name);
  writeFileSync(path, text);
  return path;
};

describe('the command line, used wrongly', () => {
  it('knows no words that the language brings along', () => {
    for (const word of ['constructor', 'toString', '__proto__', 'hasOwnProperty']) {
      const r = ruddle(word);
      expect(r.status, word).toBe(2);
      expect(r.stderr).toContain(`There is no command "${word}"`);
    }
    const out = join(folder, 'rung');
    const r = ruddle('run', write('rung.json', small(3)), '--out', out, '--rung', 'toString');
    expect(r.status).toBe(2);
    expect(r.stderr).toContain('sketch, test or final');
    expect(existsSync(out)).toBe(false);
    expect(ruddle('import', 'demo/jaw.obj', '--out', join(folder, 'g'), '--fps', 'abc').status).toBe(2);
    expect(ruddle('import', 'demo/jaw.obj', '--out', join(folder, 'g'), '--fps', '0').stderr).toContain('--fps is 0; it can be 1 to 240');
  });

  it('says of a folder that cannot be written that it cannot, before anything is computed', () => {
    const shot = write('out.json', small(3));
    const below = ruddle('run', shot, '--out', join(shot, 'below'));
    expect(below.status).toBe(4);
    expect(below.stderr).toMatch(/lies below a file/);
    expect(ruddle('run', shot, '--out', shot).stderr).toMatch(/is a file/);
    const nowhere = ruddle('run', shot, '--out', '/proc/nowhere/x');
    expect(nowhere.status).toBe(4);
    expect(nowhere.stderr).toMatch(/\/proc\/nowhere cannot be made/);
    expect(nowhere.stderr).not.toContain('at ');
    // Root may write everywhere: only whoever is not can be refused by rights.
    if (process.getuid?.() !== 0) {
      const closed = join(folder, 'closed');
      mkdirSync(closed);
      chmodSync(closed, 0o500);
      expect(ruddle('run', shot, '--out', closed).stderr).toMatch(/may not be written here/);
    }
  });

  it('reads a file with a byte-order mark, and says what is no shot file', () => {
    const marked = write('marked.json', `\uFEFF${small(2)}`);
    expect(ruddle('run', marked, '--out', join(folder, 'marked')).status).toBe(0);
    for (const [text, said] of [
      ['', 'it is not JSON'],
      ['['.repeat(6000) + ']'.repeat(6000), 'more than 64 deep'],
      ['{"ruddle": 77, "name": "x", "variants": []}', 'from a newer Ruddle'],
      ['PK garbage', 'no .zip|damaged .zip'],
    ] as const) {
      const r = ruddle('run', write('bad.json', text), '--out', join(folder, 'bad'));
      expect(r.status, text.slice(0, 20)).toBe(3);
      expect(r.stderr).toMatch(new RegExp(said));
      expect(r.stderr).not.toMatch(/\n\s+at /);
    }
  });
});

describe('a folder', () => {
  it('holds what run.json lists: a shorter run after a longer one leaves none of its frames', () => {
    const out = join(folder, 'again');
    const listed = (): string[] => {
      const { frames } = JSON.parse(readFileSync(join(out, 'run.json'), 'utf8')) as { frames: { files: { file: string }[] }[] };
      return frames.flatMap((f) => f.files.map((x) => x.file)).sort();
    };
    const there = (): string[] =>
      [...readdirSync(out), ...readdirSync(join(out, 'previews')).map((f) => join('previews', f))]
        .filter((f) => /\.(vdb|preview|part)$/.test(f))
        .sort();
    expect(ruddle('run', write('longer.json', small(6)), '--out', out).status).toBe(0);
    expect(there()).toEqual(listed());
    expect(there().filter((f) => f.endsWith('.vdb'))).toHaveLength(6);
    writeFileSync(join(out, 'solve.notes.txt'), 'mine');
    // Neither the note nor the last three frames are for this command to replace, until it is said.
    const shorter = write('shorter.json', small(3));
    const note = ruddle('run', shorter, '--out', out);
    expect([note.status, note.stderr]).toEqual([4, expect.stringContaining(`holds solve.notes.txt, which this run did not write`)]);
    rmSync(join(out, 'solve.notes.txt'));
    const lost = ruddle('run', shorter, '--out', out);
    expect([lost.status, lost.stderr]).toEqual([4, expect.stringContaining('holds 3 frames of this run outside 1-3')]);
    expect(there().filter((f) => f.endsWith('.vdb'))).toHaveLength(6);
    expect(ruddle('run', shorter, '--out', out, '--overwrite', folder).status).toBe(0);
    writeFileSync(join(out, 'solve.notes.txt'), 'mine');
    expect(ruddle('run', shorter, '--out', out, '--overwrite', out).status).toBe(0);
    expect(there()).toEqual(listed());
    expect(there().filter((f) => f.endsWith('.vdb'))).toHaveLength(3);
    expect(existsSync(join(out, 'solve.notes.txt'))).toBe(true);
  });

  it('that is not a run of ours is not swept', () => {
    const out = join(folder, 'theirs');
    mkdirSync(out);
    writeFileSync(join(out, 'solve.0099.vdb'), 'of somebody else');
    const two = write('two.json', small(2));
    const refused = ruddle('run', two, '--out', out);
    expect([refused.status, refused.stderr]).toEqual([4, expect.stringMatching(/holds solve\.0099\.vdb.*--overwrite/)]);
    expect(readdirSync(out)).toEqual(['solve.0099.vdb']);
    expect(ruddle('run', two, '--out', out, '--overwrite', out).status).toBe(0);
    expect(readFileSync(join(out, 'solve.0099.vdb'), 'utf8')).toBe('of somebody else');
  });
});

describe('a skin over its own particles', () => {
  const particles = (at: string): string => {
    const points = Array.from({ length: 64 }, (_v, n) => `${String(n % 4)} ${String((n >> 2) % 4)} ${String(n >> 4)}`);
    const head = 'ply\nformat ascii 1.0\nelement vertex 64\nproperty float x\nproperty float y\nproperty float z\nend_header\n';
    mkdirSync(at);
    for (const n of [1, 2]) writeFileSync(join(at, `surface.000${String(n)}.ply`), `${head}${points.join('\n')}\n`);
    return readFileSync(join(at, 'surface.0001.ply'), 'utf8');
  };
  const skin = (cache: string, out: string, ...more: string[]) => ruddle('surface', cache, '--out', out, '--spacing', '1', ...more);

  it('is refused however the folder is named: through a link, through links to its files, and with --overwrite too', () => {
    const cache = join(folder, 'grains');
    const before = particles(cache);
    const link = join(folder, 'link');
    symlinkSync(cache, link);
    // A folder of links: its input lies where it would write.
    const away = join(folder, 'linked');
    mkdirSync(away);
    for (const n of [1, 2]) symlinkSync(join(cache, `surface.000${String(n)}.ply`), join(away, `grain.${String(n)}.ply`));
    for (const [from, to] of [
      [cache, cache],
      [cache, link],
      [link, cache],
      [away, cache],
    ] as const) {
      const r = skin(from, to, '--overwrite', to);
      expect([r.status, r.stderr], `${from} to ${to}`).toEqual([4, expect.stringMatching(/holds this run's input/)]);
      expect(readdirSync(cache).sort()).toEqual(['surface.0001.ply', 'surface.0002.ply']);
      expect(readFileSync(join(cache, 'surface.0001.ply'), 'utf8')).toBe(before);
    }
  });

  it("does not remove another run's frames, nor write through links that lie in its folder", () => {
    const cache = join(folder, 'more-grains');
    particles(cache);
    const run = join(folder, 'a-solve');
    expect(ruddle('run', write('solve.json', small(2)), '--out', run).status).toBe(0);
    const before = readdirSync(run, { recursive: true }).sort();
    const r = skin(cache, run);
    expect([r.status, r.stderr]).toEqual([4, expect.stringMatching(/another run \(Puff, One: 2 frames\)/)]);
    expect(readdirSync(run, { recursive: true }).sort()).toEqual(before);
    expect(ruddle('verify', run).status).toBe(0);
    const mine = write('mine.txt', 'mine');
    const trap = join(folder, 'trap');
    mkdirSync(trap);
    for (const name of ['surface.0001.ply', 'surface.0001.ply.part', 'run.json.part']) symlinkSync(mine, join(trap, name));
    expect(skin(cache, trap).status).toBe(4);
    const made = skin(cache, trap, '--overwrite', trap);
    expect([made.status, readFileSync(mine, 'utf8')], made.stderr).toEqual([0, 'mine']);
    expect(ruddle('verify', trap).status).toBe(0);
    // What a record of somebody else's lists may lead out of the folder.
    const record = JSON.parse(readFileSync(join(trap, 'run.json'), 'utf8')) as { frames: { files: { file: string }[] }[] };
    record.frames[0]!.files[0]!.file = '../mine.txt';
    writeFileSync(join(trap, 'run.json'), JSON.stringify(record));
    expect(ruddle('free', trap).status).toBe(0);
    expect(existsSync(mine)).toBe(true);
  });
});

describe('a run that was killed', () => {
  it('goes on where it was when the same line is given again, and comes out the same', async () => {
    const shot = write('killed.json', small(4000));
    const out = join(folder, 'killed');
    const child = spawn(process.execPath, [BIN, 'run', shot, '--out', out, '--threads', '1'], { stdio: 'ignore' });
    const over = new Promise((resolve) => child.on('exit', resolve));
    const recorded = (of: string): { frames: { frame: number; files: object[] }[]; states: object[]; state: string } =>
      JSON.parse(readFileSync(join(of, 'run.json'), 'utf8')) as ReturnType<typeof recorded>;
    while (!existsSync(join(out, 'states')) || recorded(out).states.length === 0) await new Promise((resolve) => setTimeout(resolve, 50));
    child.kill('SIGKILL');
    await over;
    const { frames, state } = recorded(out);
    expect(state).toBe('running');
    const range = `1-${String(frames[frames.length - 1]!.frame + 4)}`;
    const again = ruddle('run', shot, '--out', out, '--frames', range);
    expect(again.stderr).toContain(`${String(frames.length)} frames are there already`);
    expect(again.stderr.match(/^frame \d+ /gm)).toHaveLength(4);
    const whole = join(folder, 'whole');
    expect(ruddle('run', shot, '--out', whole, '--frames', range).status).toBe(0);
    const sums = (of: string): unknown => recorded(of).frames.map((f) => f.files);
    expect(sums(out)).toEqual(sums(whole));
    expect(readdirSync(out)).toEqual(readdirSync(whole));
  });
});

describe('Ctrl+C', () => {
  it('is heard at any moment: while it starts, while it reads, while it computes', async () => {
    const shot = write('long.json', small(4000));
    // Earlier and later: before the command line is read, before the first frame, in the middle.
    for (const wait of [0, 1, 2, 3, 4].map((n) => 60 * 2 ** n)) {
      const out = join(folder, `early-${String(wait)}`);
      const child = spawn(process.execPath, [BIN, 'run', shot, '--out', out], { stdio: ['ignore', 'ignore', 'pipe'] });
      let said = '';
      child.stderr.on('data', (chunk: Buffer) => (said += chunk.toString()));
      setTimeout(() => child.kill('SIGINT'), wait);
      const [code, signal] = await new Promise<[number | null, string | null]>((resolve) =>
        child.on('exit', (...ended) => {
          resolve(ended);
        }),
      );
      // Before it listens the system ends it, which shells call 130 too.
      expect(code === 130 || signal === 'SIGINT', `after ${String(wait)} ms: ${String(code)} ${said}`).toBe(true);
      expect(said).not.toMatch(/defect|\n\s+at /);
      if (existsSync(join(out, 'run.json'))) expect(readFileSync(join(out, 'run.json'), 'utf8')).toContain('"state": "cancelled"');
      expect(existsSync(out) ? readdirSync(out).filter((f) => f.endsWith('.part')) : []).toEqual([]);
    }
  });
});
