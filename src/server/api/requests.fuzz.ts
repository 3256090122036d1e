import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import type { ShotDto } from '#protocol';
import { type App, sharedApp } from '#server/app';
import { fuzz, spoiltJson } from '#testing/fuzz';
import { handleApi } from '.';
import { routes } from './routes';

const folder = mkdtempSync(join(tmpdir(), 'ruddle-fuzz-api-'));
let app: App;
let shot: ShotDto;
const logged: string[] = [];

const small = {
  ruddle: 3,
  name: 'Small puff',
  lastFrame: 3,
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
};

beforeAll(async () => {
  process.env['RUDDLE_DATA'] = folder;
  process.env['RUDDLE_DEMO'] = '0';
  process.env['RUDDLE_CALIBRATE'] = '0';
  process.env['RUDDLE_KEEP_BYTES'] = '0';
  app = await sharedApp();
  vi.spyOn(console, 'error').mockImplementation((...words: unknown[]) => void logged.push(words.map(String).join(' ')));
  shot = (await (await post('/shots', small)).json()) as ShotDto;
});
afterAll(async () => {
  await app.close();
  rmSync(folder, { recursive: true, force: true });
});

const call = (method: string, path: string, body?: BodyInit): Promise<Response> =>
  handleApi(new Request(`http://127.0.0.1/api${path}`, { method, ...(body === undefined ? {} : { body }) }));
const post = (path: string, json: unknown): Promise<Response> => call('POST', path, JSON.stringify(json));

/** Every answer is one that was meant: no defect, and an error says its tag and a sentence. */
async function isMeant(response: Response, what: string): Promise<void> {
  if (response.headers.get('content-type')?.startsWith('text/event-stream')) {
    await response.body?.cancel();
    return;
  }
  const text = await response.text();
  expect(response.status, `${what}: ${text.slice(0, 400)} ${logged.join('\n').slice(0, 2000)}`).not.toBe(500);
  if (response.status < 400) return;
  const { error } = JSON.parse(text) as { error: { tag: string; message: string } };
  expect(error.tag).not.toBe('internal');
  expect(error.message.length, what).toBeGreaterThan(8);
}

const part = fc.oneof(
  fc.constantFrom('x', '0', '-1', '..', '%2e%2e', 'a'.repeat(80), 'density', '99999999999999999999', '%00', 'é', ''),
  fc.string({ maxLength: 6 }).map(encodeURIComponent),
);
const known = (): string[] => [shot.id, shot.slug, shot.variants[0]!.id];

it('whatever is asked, at whatever address, is answered or refused in words', async () => {
  // Imports start a process each; they have a test of their own.
  const quick = routes.filter((r) => r.method !== 'POST' || !/^\/(geometry|bundles)$/.test(r.path));
  const address = fc.constantFrom(...quick).chain((route) =>
    fc
      .array(
        fc.oneof(
          part,
          fc.nat(2).map((n) => known()[n] ?? ''),
        ),
        { minLength: 3, maxLength: 3 },
      )
      .map((parts) => {
        let n = 0;
        return { method: route.method, path: route.path.replace(/:\w+/g, () => parts[n++] ?? 'x') };
      }),
  );
  const query = fc.constantFrom('', '?bounds=9', '?bounds=-1&bounds=x', '?bounds=99999', '?file=../../x&import=1', '?bounds=1e9');
  const body = fc.oneof(
    fc.constant(undefined),
    fc.json({ maxDepth: 3 }),
    fc.string(),
    fc.constantFrom('[', '{}', 'null', `${'['.repeat(5000)}`),
  );
  await fc.assert(
    fc.asyncProperty(address, query, body, async ({ method, path }, q, b) => {
      // Deleting the one variant there is, or starting runs by luck, would change what the next case finds.
      if (/delete|sketching/.test(path)) return;
      const response = await call(method, `${path}${q}`, method === 'GET' ? undefined : b);
      await isMeant(response, `${method} ${path}${q} ${String(b).slice(0, 200)}`);
    }),
    fuzz(1200),
  );
});

it('whatever is sent as geometry or as a bundle is refused in words, and the server goes on', async () => {
  const file = fc.constantFrom('x.ply', 'x.glb', 'x.zip', 'x.stl', 'x.obj', 'x.vdb', 'x.png', 'x', '../x.obj');
  await fc.assert(
    fc.asyncProperty(fc.constantFrom('/geometry', '/bundles'), file, fc.uint8Array({ maxLength: 400 }), async (path, name, bytes) => {
      const response = await call('POST', `${path}?file=${encodeURIComponent(name)}&import=1`, new Uint8Array(bytes));
      expect(response.status).toBeGreaterThanOrEqual(400);
      await isMeant(response, `${path} ${name}`);
    }),
    fuzz(12),
  );
  expect((await call('GET', '/status')).status).toBe(200);
});

it('requests that are nearly right are taken or refused in words, and change nothing when they are refused', async () => {
  const { settings } = shot.variants[0]!;
  const bodies = [
    ['POST', '/shots', small],
    ['POST', '/shots', JSON.parse(readFileSync('demo/kiln-stack.json', 'utf8'))],
    ['PUT', `/shots/${shot.slug}/fields`, { fields: shot.fields, revision: 0 }],
    ['PUT', `/variants/${shot.variants[0]!.id}/draft`, { settings, revision: 0 }],
    ['PUT', `/variants/${shot.variants[0]!.id}/name`, { name: 'Two' }],
    ['POST', '/new-shots', { name: 'Copy', from: shot.id }],
    ['POST', `/shots/${shot.slug}/sketches`, { settings, factor: 4, frames: [] }],
  ] as const;
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom(...bodies).chain(([method, path, body]) => spoiltJson(body).map((spoilt) => [method, path, spoilt] as const)),
      async ([method, path, body]) => {
        const before = (await app.shots.list()).length;
        const response = await call(method, path, JSON.stringify(body));
        const { status } = response;
        await isMeant(response, `${method} ${path} ${JSON.stringify(body).slice(0, 1500)}`);
        const after = await app.shots.list();
        expect(after.length).toBe(before + (status === 200 && /shots$/.test(path) ? 1 : 0));
        // Whatever was taken can be shown.
        expect(after.every((s) => s.readable)).toBe(true);
        if (status === 200) await isMeant(await call('GET', `/shots/${shot.slug}`), 'the shot');
        for (const s of after) if (s.id !== shot.id && after.length > 40) await app.db.run(`delete from shots where id = '${s.id}'`);
      },
    ),
    fuzz(300),
  );
});
