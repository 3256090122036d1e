import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, truncateSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { RunDetailDto, ServerEvent, ShotDto, StatusDto } from '../src/protocol/index';
import { runShort } from './page';
import { type ServerProcess, processorSecondsOf, startServer } from './server-process';

// A server of its own: it is attacked, and its data are broken under it.
let data = '';
let server: ServerProcess;
const env = (): Record<string, string> => ({ RUDDLE_DATA: data, RUDDLE_DEMO: '0', RUDDLE_CALIBRATE: '0', RUDDLE_PORT: '0' });

/** A gigabyte of zeros that begins as a .ply of 83 million vertices: less than a megabyte to send. Made before anything else: it takes a while. */
let bomb = new Uint8Array(0);

beforeAll(async () => {
  const zeros = new Uint8Array(1_000_000_000);
  zeros.set(
    new TextEncoder().encode(
      'ply\nformat binary_little_endian 1.0\nelement vertex 83000000\nproperty float x\nproperty float y\nproperty float z\nend_header\n',
    ),
  );
  bomb = zipSync({ 'a.0001.ply': [zeros, { level: 6 }] });
  data = mkdtempSync(join(tmpdir(), 'ruddle-hold-'));
  server = await startServer(env());
});
afterAll(async () => {
  await server.stop();
  rmSync(data, { recursive: true, force: true });
});

const post = (path: string, body: BodyInit, type = 'application/octet-stream'): Promise<Response> =>
  fetch(`${server.address}/api${path}`, { method: 'POST', body, headers: { 'content-type': type } });
const refusalOf = async (response: Response): Promise<{ status: number; tag: string; message: string }> => {
  const { error } = (await response.json()) as { error: { tag: string; message: string } };
  return { status: response.status, tag: error.tag, message: error.message };
};
const alive = async (): Promise<StatusDto> => (await (await fetch(`${server.address}/api/status`)).json()) as StatusDto;

describe('one upload does not take the server down', () => {
  it('a zip that unpacks to gigabytes, a .glb that claims 500 million vertices, gigabytes of zeros: refused in words, and a run beside goes on', async () => {
    const shot = await runShort(server.address, []);
    const started = await post(
      '/runs',
      JSON.stringify({ variantId: shot.variants[0]!.id, rung: 'final', overBudget: true }),
      'application/json',
    );
    const run = (await started.json()) as { id: string };

    expect(bomb.length).toBeLessThan(1_200_000);
    const [zip, glb, ply] = await Promise.all([
      post('/geometry?file=bomb.zip', bomb).then(refusalOf),
      post('/geometry?file=claims.glb', claimingGlb()).then(refusalOf),
      post('/geometry?file=zeros.ply', new Uint8Array(200_000_000)).then(refusalOf),
    ]);
    expect(zip).toMatchObject({ status: 422, tag: 'file-invalid' });
    // Given up by the processor time that a .zip of its size may take; a machine that unpacks a gigabyte within that reads what it claims.
    expect(zip.message).toMatch(
      /bomb\.zip: (?:unpacking it takes more than [\d.]+ s of a core|a\.0001\.ply: its header claims 83000000 of "vertex")/,
    );
    expect(glb).toMatchObject({ status: 422, message: expect.stringMatching(/claims 500000000 values/) as string });
    expect(ply).toMatchObject({ status: 422, message: expect.stringMatching(/it does not begin with "ply"/) as string });
    // Garbage of every kind is a refusal too.
    for (const name of ['x.zip', 'x.glb', 'x.obj', 'x.stl', 'x.vdb', 'x.png', 'x.ply', 'x.exe'])
      expect(await post(`/geometry?file=${name}`, 'nothing of the kind').then(refusalOf), name).toMatchObject({
        status: 422,
        tag: 'file-invalid',
      });
    expect(await post('/bundles?file=x.zip', 'PK garbage').then(refusalOf)).toMatchObject({ status: 422, tag: 'file-invalid' });
    for (;;) {
      const { run: now } = (await (await fetch(`${server.address}/api/runs/${run.id}`)).json()) as RunDetailDto;
      if (now.state === 'done') break;
      expect(['queued', 'running']).toContain(now.state);
      await new Promise((r) => setTimeout(r, 100));
    }
  });

  it('an import ends when its client leaves, and tells how far it is while it goes on', async () => {
    const rows = Array.from({ length: 300_000 }, (_v, n) => `v ${String(n)} ${String(n % 7)} 0`);
    const faces = Array.from({ length: 299_998 }, (_v, n) => `f ${String(n + 1)} ${String(n + 2)} ${String(n + 3)}`);
    const obj = `${rows.join('\n')}\n${faces.join('\n')}`;
    const stages: string[] = [];
    const listening = new AbortController();
    const leaving = new AbortController();
    const events = await fetch(`${server.address}/api/events`, { signal: listening.signal });
    const heard = (async () => {
      for await (const chunk of events.body!.pipeThrough(new TextDecoderStream())) {
        for (const line of chunk.split('\n\n').filter((l) => l.startsWith('data: '))) {
          const event = JSON.parse(line.slice(6)) as ServerEvent;
          if (event.kind !== 'import' || event.id !== 'leaving') continue;
          stages.push(event.stage);
          leaving.abort();
        }
      }
    })().catch(() => undefined);
    const sent = fetch(`${server.address}/api/geometry?file=strip.obj&import=leaving`, {
      method: 'POST',
      body: obj,
      signal: leaving.signal,
    });
    await expect(sent).rejects.toThrow();
    // Its process is gone: none of the server's children is an import.
    await expect.poll(() => importsOf(server.child.pid!), { timeout: 5000 }).toBe(0);
    listening.abort();
    await heard;
    expect(stages[0]).toBe('reading');
  });

  it('a shot of 12 kB with chained moves holds nobody up', async () => {
    const sources = Array.from({ length: 32 }, (_v, n) => ({
      shape: { kind: 'ball' },
      moves: {
        density: {
          kind: 'expression',
          text: n === 0 ? 'time' : Array.from({ length: 8 }, () => `sources[${String(n - 1)}].density`).join(' + ') + ' * 0.01',
        },
      },
    }));
    const body = JSON.stringify({ ruddle: 3, name: 'Chained', variants: [{ name: 'One', settings: { sources } }] });
    expect(body.length).toBeLessThan(20_000);
    const before = processorSecondsOf(server.child.pid!);
    const response = await post('/shots', body, 'application/json');
    expect(response.status).toBe(200);
    expect(processorSecondsOf(server.child.pid!) - before).toBeLessThan(2);
    const shot = (await response.json()) as ShotDto;
    // What it comes to is refused (it leaves its range), and found out beside the thread that answers.
    const start = post('/runs', JSON.stringify({ variantId: shot.variants[0]!.id, rung: 'test' }), 'application/json');
    await alive();
    expect((await start).status).toBeLessThan(500);
  });
});

describe('a request that is none', () => {
  it('nested JSON, methods that nobody knows, bodies that lie about their length', async () => {
    const nested = '['.repeat(5000) + ']'.repeat(5000);
    expect(await post('/shots', nested, 'application/json').then(refusalOf)).toMatchObject({
      status: 400,
      message: expect.stringMatching(/more than 64 deep/) as string,
    });
    const deep = JSON.stringify({ ruddle: 3, name: 'x', variants: [] }).replace('[]', '{"a":'.repeat(60) + '1' + '}'.repeat(60));
    expect((await post('/shots', deep, 'application/json')).status).toBe(400);
    const traced = await raw(`TRACE /api/status HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n`);
    expect(traced).toMatch(/^HTTP\/1\.1 405/);
    expect(traced).toMatch(/Allow: GET/i);
    expect(traced).toContain('Ruddle knows no TRACE');
    const big = `{"notes":"${'x'.repeat(5_000_000)}"}`;
    const chunked = await raw(
      `POST /api/new-shots HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nTransfer-Encoding: chunked\r\nConnection: close\r\n\r\n${big.length.toString(16)}\r\n${big}\r\n0\r\n\r\n`,
    );
    expect(chunked).toMatch(/^HTTP\/1\.1 403/);
    await alive();
  });
});

describe('honest states', () => {
  it('a second server on the same data says where the first one is, and ends', async () => {
    const second = spawn(process.execPath, ['server.mjs'], { env: { ...process.env, ...env() }, stdio: ['ignore', 'pipe', 'pipe'] });
    let said = '';
    second.stdout.on('data', (c: Buffer) => (said += c.toString()));
    second.stderr.on('data', (c: Buffer) => (said += c.toString()));
    const code = await new Promise<number | null>((resolve) => second.on('exit', resolve));
    expect(code).toBe(1);
    expect(said).toContain(`already open at ${server.address}`);
    await alive();
  });

  it('a damaged preview is not served; the frame says so from then on', async () => {
    const shot = await runShort(server.address, ['test']);
    const run = shot.runs[0]!;
    const address = (frame: number): string => `${server.address}/api/runs/${run.id}/frames/${String(frame)}/density`;
    expect((await fetch(address(5))).status).toBe(200);
    truncateSync(join(run.folder, 'previews/solve.5.density.preview'), 90);
    const damaged = await fetch(address(5));
    expect(damaged.status).toBe(422);
    expect(damaged.headers.get('cache-control')).toBe('no-store');
    expect((await refusalOf(damaged)).message).toMatch(/The density of frame 5 is damaged on the disk: it has 90 of \d+ bytes/);
    const detail = (await (await fetch(`${server.address}/api/runs/${run.id}`)).json()) as RunDetailDto;
    expect(detail.frames.find((f) => f.frame === 5)).toMatchObject({ stored: false, damage: 'damaged' });
    rmSync(join(run.folder, 'previews/solve.6.density.preview'));
    expect((await fetch(address(6))).status).toBe(404);
    const verified = (await (await post(`/runs/${run.id}/verify`, '{}', 'application/json')).json()) as {
      damaged: number[];
      missing: number[];
    };
    expect(verified).toMatchObject({ damaged: [5], missing: [6] });
    rmSync(run.folder, { recursive: true });
    const after = (await (await fetch(`${server.address}/api/shots/${shot.slug}`)).json()) as ShotDto;
    expect(after.runs[0]).toMatchObject({ missingFrames: 12 });
  });

  it('killed in the middle of a run, it puts the folder in order at the next start and says what it found', async () => {
    const shot = await runShort(server.address, []);
    const long = await fetch(`${server.address}/api/shots/${shot.slug}/fields`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ fields: { ...shot.fields, lastFrame: 4000 }, revision: 0 }),
    });
    expect(long.status).toBe(200);
    const run = (await (
      await post('/runs', JSON.stringify({ variantId: shot.variants[0]!.id, rung: 'test', overBudget: true }), 'application/json')
    ).json()) as { id: string; folder: string };
    const look = async (): Promise<RunDetailDto> => (await (await fetch(`${server.address}/api/runs/${run.id}`)).json()) as RunDetailDto;
    while ((await look()).frames.length <= 5) await new Promise((r) => setTimeout(r, 50));
    await server.stop('SIGKILL');
    server = await startServer(env());
    const found = /^Run \d+ of Small puff was interrupted after (\d+) frames\..*It goes on\.$/.exec((await alive()).found[0] ?? '');
    const before = Number(found?.[1]);
    expect(before).toBeGreaterThan(5);
    while ((await look()).frames.length <= before) await new Promise((r) => setTimeout(r, 50));
    await post(`/runs/${run.id}/cancel`, '{}', 'application/json');
    while ((await look()).run.state === 'running') await new Promise((r) => setTimeout(r, 50));
    const { run: after, frames } = await look();
    const record = JSON.parse(readFileSync(join(run.folder, 'run.json'), 'utf8')) as { state: string; frames: unknown[] };
    expect(record.state).toBe('cancelled');
    expect(record.frames).toHaveLength(frames.length);
    expect(after).toMatchObject({ state: 'cancelled', damagedFrames: 0, missingFrames: 0 });
  });

  it('a database that is taken away is said to be, not a stack', async () => {
    for (const file of ['ruddle.db', 'ruddle.db-wal', 'ruddle.db-shm']) rmSync(join(data, file), { force: true });
    const response = await post('/new-shots', JSON.stringify({ name: 'After', from: null }), 'application/json');
    const { tag, message } = await refusalOf(response);
    expect([tag, message].join(' ')).toMatch(/storage Ruddle's database was removed or replaced while Ruddle runs/);
    expect(response.status).toBe(503);
  });
});

/** 776 bytes or so that claim 500 million vertices. */
function claimingGlb(): Uint8Array<ArrayBuffer> {
  const json = JSON.stringify({
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    buffers: [{ byteLength: 16 }],
    bufferViews: [{ buffer: 0, byteLength: 16 }],
    accessors: [
      {
        componentType: 5126,
        type: 'VEC3',
        count: 500_000_000,
        sparse: { count: 1, indices: { bufferView: 0, componentType: 5125 }, values: { bufferView: 0, byteOffset: 4 } },
      },
    ],
  }).padEnd(700);
  const out = new Uint8Array(20 + json.length);
  const view = new DataView(out.buffer);
  [0x46546c67, 2, out.length, json.length, 0x4e4f534a].forEach((v, n) => {
    view.setUint32(4 * n, v, true);
  });
  out.set(new TextEncoder().encode(json), 20);
  return out;
}

/** Import processes below a server, by the system's own list. */
function importsOf(pid: number): number {
  const children = readFileSync(`/proc/${String(pid)}/task/${String(pid)}/children`, 'utf8')
    .trim()
    .split(/\s+/)
    .filter(Boolean);
  return children.filter((c) => {
    try {
      return readFileSync(`/proc/${c}/cmdline`, 'utf8').includes('import');
    } catch {
      return false;
    }
  }).length;
}

/** Bytes as they are, and what comes back. */
function raw(request: string): Promise<string> {
  const { hostname, port } = new URL(server.address);
  return new Promise((resolve, reject) => {
    const socket = connect(Number(port), hostname, () => socket.write(request));
    let answer = '';
    socket.on('data', (c) => (answer += c.toString()));
    socket.on('close', () => {
      resolve(answer);
    });
    socket.on('error', (error) => {
      if (answer === '') reject(error);
    });
  });
}
