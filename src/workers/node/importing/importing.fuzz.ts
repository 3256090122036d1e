import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { strToU8, zipSync } from 'fflate';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { isRuddleError } from '#core/errors';
import { BUNDLE_SHOT, bundleGeometryName, writeVdb } from '#core/formats';
import { decodeGeometry, encodeGeometry } from '#core/mesh';
import { fuzz, spoiltBytes } from '#testing/fuzz';
import { unpackBundle } from './bundle';
import { makeGeometry } from './make';

const folder = mkdtempSync(join(tmpdir(), 'ruddle-fuzz-'));
// Readers of other people's formats say on the console what they make of them.
beforeAll(() => {
  for (const how of ['log', 'warn', 'error'] as const) vi.spyOn(console, how).mockImplementation(() => undefined);
});
afterAll(() => {
  vi.restoreAllMocks();
  rmSync(folder, { recursive: true, force: true });
});
const path = join(folder, 'upload');

/** No file of a few kilobytes may take longer, milliseconds. */
const LONGEST = 3000;
async function inTime<T>(body: () => Promise<T> | T): Promise<T> {
  const began = performance.now();
  const result = await body();
  expect(performance.now() - began).toBeLessThan(LONGEST);
  return result;
}

const cube = {
  points: [0, 1, 2, 3, 4, 5, 6, 7].map((n) => [n & 1, (n >> 1) & 1, n >> 2]),
  quads: [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ],
};
const triangles = cube.quads.flatMap(([a, b, c, d]) => [
  [a, b, c],
  [a, c, d],
]) as number[][];

function plyBytes(): Uint8Array {
  const head = strToU8(
    'ply\nformat binary_little_endian 1.0\ncomment made up\nelement vertex 8\nproperty float x\nproperty float y\nproperty float z\nelement face 12\nproperty list uchar int vertex_indices\nend_header\n',
  );
  const out = new Uint8Array(head.length + 8 * 12 + 12 * 13);
  out.set(head);
  const view = new DataView(out.buffer, head.length);
  cube.points.flat().forEach((v, n) => {
    view.setFloat32(4 * n, v, true);
  });
  triangles.forEach((t, n) => {
    view.setUint8(96 + 13 * n, 3);
    t.forEach((v, m) => {
      view.setInt32(97 + 13 * n + 4 * m, v, true);
    });
  });
  return out;
}
const pointsPly = (shift: number): Uint8Array =>
  strToU8(
    `ply\nformat ascii 1.0\nelement vertex 8\nproperty float x\nproperty float y\nproperty float z\nproperty int id\nend_header\n${cube.points.map(([x, y, z], n) => `${String(Number(x) + shift)} ${String(y)} ${String(z)} ${String(n)}`).join('\n')}\n`,
  );
function stlBytes(): Uint8Array {
  const out = new Uint8Array(84 + 50 * triangles.length);
  const view = new DataView(out.buffer);
  view.setUint32(80, triangles.length, true);
  triangles.forEach((t, n) => {
    t.forEach((v, m) => {
      cube.points[v]!.forEach((x, a) => {
        view.setFloat32(84 + 50 * n + 12 + 12 * m + 4 * a, x, true);
      });
    });
  });
  return out;
}
function glbBytes(): Uint8Array {
  const data = new Uint8Array(96 + 72);
  const view = new DataView(data.buffer);
  cube.points.flat().forEach((v, n) => {
    view.setFloat32(4 * n, v, true);
  });
  triangles.flat().forEach((v, n) => {
    view.setUint16(96 + 2 * n, v, true);
  });
  const json = strToU8(
    JSON.stringify({
      asset: { version: '2.0' },
      scene: 0,
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0, translation: [1, 0, 0] }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
      buffers: [{ byteLength: data.length }],
      bufferViews: [
        { buffer: 0, byteLength: 96 },
        { buffer: 0, byteOffset: 96, byteLength: 72 },
      ],
      accessors: [
        { bufferView: 0, componentType: 5126, type: 'VEC3', count: 8, min: [0, 0, 0], max: [1, 1, 1] },
        { bufferView: 1, componentType: 5123, type: 'SCALAR', count: 36 },
      ],
    }).padEnd(900),
  );
  const out = new Uint8Array(20 + json.length + 8 + data.length);
  const o = new DataView(out.buffer);
  [0x46546c67, 2, out.length, json.length, 0x4e4f534a].forEach((v, n) => {
    o.setUint32(4 * n, v, true);
  });
  out.set(json, 20);
  o.setUint32(20 + json.length, data.length, true);
  o.setUint32(24 + json.length, 0x004e4942, true);
  out.set(data, 28 + json.length);
  return out;
}
const obj = strToU8(
  [...cube.points.map((p) => `v ${p.join(' ')}`), ...triangles.map((t) => `f ${t.map((v) => String(v + 1)).join(' ')}`), 'usemtl x'].join(
    '\n',
  ),
);
const volume = writeVdb(
  [
    {
      grid: {
        name: 'sdf',
        components: 1,
        background: [0.3],
        origins: Int32Array.of(0, 0, 0),
        masks: new Uint8Array(64).fill(255),
        values: new Float32Array(512).map((_v, n) => Math.hypot((n >> 6) - 3.5, ((n >> 3) & 7) - 3.5, (n & 7) - 3.5) / 10 - 0.2),
      },
      class: 'level set',
      transform: { scale: [0.1, 0.1, 0.1], translation: [0, 0, 0] },
    },
  ],
  { precision: 'full', compression: 'zip', uuid: '0', creator: 'fuzz' },
);

it('a spoilt mesh, volume, series or picture is refused in words, or becomes geometry that is whole', async () => {
  const picture = new Uint8Array(
    await sharp({ create: { width: 24, height: 16, channels: 3, background: '#a52' } })
      .png()
      .toBuffer(),
  );
  const series = zipSync({ 'drops.0001.ply': pointsPly(0), 'drops.0002.ply': pointsPly(0.5) });
  const files = [
    ['cube.ply', plyBytes()],
    ['drops.ply', pointsPly(0)],
    ['cube.stl', stlBytes()],
    ['cube.glb', glbBytes()],
    ['cube.obj', obj],
    ['cube.vdb', volume],
    ['mask.png', picture],
    ['drops.zip', series],
  ] as const;
  // All of them are read when nothing is wrong.
  for (const [name, bytes] of files) {
    writeFileSync(path, bytes);
    await makeGeometry(path, name);
  }
  let [read, refused] = [0, 0];
  await fc.assert(
    fc.asyncProperty(spoiltBytes(...files), async ([name, bytes]) => {
      writeFileSync(path, bytes);
      await inTime(async () => {
        try {
          const { bytes: kept, info } = await makeGeometry(path, name);
          decodeGeometry(kept, name);
          expect([...info.size, ...info.centre, info.seconds].every(Number.isFinite), JSON.stringify(info)).toBe(true);
          read++;
        } catch (error) {
          if (!isRuddleError(error, 'file-invalid')) throw error;
          refused++;
        }
      });
    }),
    fuzz(4000),
  );
  expect(Math.min(read, refused)).toBeGreaterThan(50);
});

it('a spoilt bundle is refused in words, or holds a shot and geometry that are whole', async () => {
  const geometry = encodeGeometry({ kind: 'picture', picture: { width: 2, height: 2, values: new Float32Array(4) } });
  const hash = createHash('sha256').update(geometry).digest('hex');
  const shot = readFileSync('demo/kiln-door.json');
  const bundle = zipSync({ [BUNDLE_SHOT]: shot, [bundleGeometryName(hash)]: geometry, 'notes.txt': strToU8('x'.repeat(400)) });
  await fc.assert(
    fc.asyncProperty(spoiltBytes(['shot.zip', bundle]), async ([name, bytes]) => {
      writeFileSync(path, bytes);
      await inTime(() => {
        try {
          const found = unpackBundle(path, name, folder, () => undefined);
          for (const h of found.hashes)
            expect(
              createHash('sha256')
                .update(readFileSync(join(folder, h)))
                .digest('hex'),
            ).toBe(h);
        } catch (error) {
          if (!isRuddleError(error, 'file-invalid')) throw error;
        }
      });
    }),
    fuzz(800),
  );
});
