import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, inject, it } from 'vitest';
import type { RunDetailDto, RunDto, ShotDto, ShotRowDto } from '../src/protocol/index';
import { startServer } from './server-process';

interface Answer {
  readonly status: number;
  readonly headers: NodeJS.Dict<string | string[]>;
  readonly body: string;
}

/** A request with headers that fetch would not send. */
const raw = (
  address: string,
  path: string,
  options: { method?: string; headers?: Record<string, string>; body?: string } = {},
): Promise<Answer> =>
  new Promise((resolve, reject) => {
    const r = request(`${address}${path}`, { method: options.method ?? 'GET', headers: options.headers ?? {} }, (response) => {
      let body = '';
      response.on('data', (chunk: Buffer) => (body += chunk.toString()));
      response.on('end', () => {
        resolve({ status: response.statusCode ?? 0, headers: response.headers, body });
      });
    });
    r.on('error', reject);
    r.end(options.body);
  });

describe('the guard', () => {
  it('refuses foreign hosts and origins, for pages, files and the API', async () => {
    const address = inject('address');
    for (const path of ['/api/status', '/shots', '/mark.svg']) {
      expect((await raw(address, path, { headers: { host: 'ruddle.example' } })).status).toBe(403);
      expect((await raw(address, path, { headers: { origin: 'http://elsewhere.example' } })).status).toBe(403);
      expect((await raw(address, path)).status).toBe(200);
    }
    const post = await raw(address, '/api/runs', { method: 'POST', headers: { origin: 'null', 'content-type': 'text/plain' }, body: '{}' });
    expect(post.status).toBe(403);
  });

  it('lets a link from another site open the page, and refuses everything else from there', async () => {
    const address = inject('address');
    const from = (path: string, mode: string, dest: string, method = 'GET'): Promise<number> =>
      raw(address, path, { method, headers: { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': mode, 'sec-fetch-dest': dest } }).then(
        (r) => r.status,
      );
    expect([await from('/shots', 'navigate', 'document'), await from('/bench/x?run=1&frame=7', 'navigate', 'document')]).toEqual([
      200, 200,
    ]);
    expect([
      await from('/shots', 'navigate', 'iframe'),
      await from('/shots', 'no-cors', 'document'),
      await from('/mark.svg', 'no-cors', 'image'),
      await from('/api/shots', 'navigate', 'document'),
      await from('/%61pi/shots', 'navigate', 'document'),
      await from('//api/shots', 'navigate', 'document'),
      await from('/shots', 'navigate', 'document', 'POST'),
    ]).toEqual(Array<number>(7).fill(403));
  });

  it('sets headers on everything', async () => {
    for (const path of ['/shots', '/api/status', '/mark.svg']) {
      const { headers } = await raw(inject('address'), path);
      expect(headers['cross-origin-opener-policy']).toBe('same-origin');
      expect(headers['cross-origin-embedder-policy']).toBe('require-corp');
      expect(headers['content-security-policy']).toContain("script-src 'self'");
      expect(headers['x-content-type-options']).toBe('nosniff');
    }
  });

  it('answers what is not right with a tagged error', async () => {
    const address = inject('address');
    const post = (body: string): Promise<Answer> =>
      raw(address, '/api/runs', { method: 'POST', headers: { 'content-type': 'application/json' }, body });
    expect(await post('not json')).toMatchObject({ status: 400 });
    expect(JSON.parse((await post('{"variantId": 4}')).body)).toMatchObject({ error: { tag: 'settings-invalid' } });
    expect((await post('{"variantId":"nobody","rung":"test"}')).status).toBe(404);
    expect((await post(JSON.stringify({ variantId: 'x'.repeat(5_000_000), rung: 'test' }))).status).toBe(403);
    for (const path of ['/api/runs/..%2f..%2fetc', '/api/runs/x/frames/1/..%2f..%2fpasswd', '/api/nothing']) {
      expect((await raw(address, path)).status).toBe(404);
    }
  });
});

interface SmallShot {
  readonly variants: { readonly settings: { passes: { readonly kind: string; readonly settings: { detail: { voxelSize: number } } }[] } }[];
}

describe('a server of its own', () => {
  it('loads the demo at the first start and computes its Tests; killed in the middle, it comes back with the frames and goes on', async () => {
    const data = mkdtempSync(join(tmpdir(), 'ruddle-kill-'));
    const demo = mkdtempSync(join(tmpdir(), 'ruddle-demo-'));
    // Shots as those of the demo, and small: one of three variants, of the first of which a pass makes a finer one; and another.
    for (const [file, lastFrame] of [
      ['kiln-stack', 24],
      ['kiln-door', 4],
    ] as const) {
      const shot = JSON.parse(readFileSync(`demo/${file}.json`, 'utf8')) as SmallShot;
      for (const { settings } of shot.variants) {
        settings.passes = settings.passes.filter((p) => p.kind === 'gas' || p.kind === 'detail');
        for (const p of settings.passes) if (p.kind === 'gas') p.settings.detail.voxelSize *= 2;
      }
      writeFileSync(join(demo, `${file}.json`), JSON.stringify({ ...shot, lastFrame }));
    }
    const env = { RUDDLE_DATA: data, RUDDLE_PORT: '0', RUDDLE_DEMO: demo, RUDDLE_CALIBRATE: '0' };
    let server = await startServer(env);
    try {
      const shots = (await (await fetch(`${server.address}/api/shots`)).json()) as ShotRowDto[];
      expect(shots.map((s) => s.slug).sort()).toEqual(['kiln-door', 'kiln-stack']);
      const stack = shots.find((s) => s.slug === 'kiln-stack')!;
      if (!stack.readable) throw new Error(stack.reason);
      // Of three variants; and of the first what was made finer.
      expect(stack.runs.map((r) => [r.kind, r.rung])).toEqual(['gas', 'gas', 'gas', 'detail'].map((kind) => [kind, 'test']));
      const id = stack.runs[0]!.id;
      const look = async (): Promise<RunDto> => ((await (await fetch(`${server.address}/api/runs/${id}`)).json()) as RunDetailDto).run;
      while ((await look()).framesDone < 28) await new Promise((r) => setTimeout(r, 100));
      await server.stop('SIGKILL');

      server = await startServer(env);
      expect((await fetch(`${server.address}/shots`)).status).toBe(200);
      const after = await look();
      expect(['queued', 'running']).toContain(after.state);
      expect(after.framesDone).toBeGreaterThanOrEqual(28);
      const detail = (await (await fetch(`${server.address}/api/runs/${id}`)).json()) as RunDetailDto;
      const stored = detail.frames.filter((f) => f.stored);
      expect(stored.length).toBeGreaterThan(2);
      for (const f of stored) {
        expect(readFileSync(join(after.folder, `solve.${String(f.frame).padStart(4, '0')}.vdb`)).length).toBeGreaterThan(100);
      }
      const voxels = await fetch(`${server.address}/api/runs/${id}/frames/${String(stored[0]!.frame)}/density`);
      expect(voxels.status).toBe(200);
      expect(voxels.headers.get('cache-control')).toContain('immutable');
      // The first goes on by itself, and the second variant's Test, which waited, after it.
      for (;;) {
        const shot = (await (await fetch(`${server.address}/api/shots/kiln-stack`)).json()) as ShotDto;
        const [first, second] = [shot.runs[0]!, shot.runs[1]!];
        if (first.state === 'done' && second.state === 'done') break;
        expect(['running', 'queued', 'done']).toContain(first.state);
        expect(['running', 'queued', 'done']).toContain(second.state);
        await new Promise((r) => setTimeout(r, 150));
      }
    } finally {
      await server.stop();
      rmSync(data, { recursive: true, force: true });
      rmSync(demo, { recursive: true, force: true });
    }
  });
});
