import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { createHash } from 'node:crypto';
import { afterAll, describe, expect, it } from 'vitest';
import { isRuddleError } from '#core/errors';
import { encodeGeometry } from '#core/mesh';
import { wrongWithGlb } from './check-glb';
import { wrongWithPly } from './check-ply';
import { makeGeometry } from './make';
import { secondsOf, unpackZip } from './unpack';
import { runImport } from '.';

const folder = mkdtempSync(join(tmpdir(), 'ruddle-attacks-'));
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});
let files = 0;
const onDisk = (bytes: Uint8Array): string => {
  const path = join(folder, String(files++));
  writeFileSync(path, bytes);
  return path;
};
const text = (s: string): Uint8Array => new TextEncoder().encode(s);
const refusal = (bytes: Uint8Array, file: string): Promise<string> =>
  makeGeometry(onDisk(bytes), file).then(
    () => 'read',
    (e: unknown) => (isRuddleError(e, 'file-invalid') ? e.message : `another error: ${String(e)}`),
  );

const plyHeader = (vertices: number, format = 'binary_little_endian'): string =>
  `ply\nformat ${format} 1.0\nelement vertex ${String(vertices)}\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n`;

/** A .glb of this JSON and so many bytes. */
function glb(json: object, bytes = 0): Uint8Array {
  const head = text(JSON.stringify(json));
  const padded = new Uint8Array(Math.ceil(head.length / 4) * 4).fill(32);
  padded.set(head);
  const all = new Uint8Array(20 + padded.length + (bytes > 0 ? 8 + bytes : 0));
  const view = new DataView(all.buffer);
  view.setUint32(0, 0x46546c67, true);
  view.setUint32(4, 2, true);
  view.setUint32(8, all.length, true);
  view.setUint32(12, padded.length, true);
  view.setUint32(16, 0x4e4f534a, true);
  all.set(padded, 20);
  if (bytes > 0) {
    view.setUint32(20 + padded.length, bytes, true);
    view.setUint32(24 + padded.length, 0x004e4942, true);
  }
  return all;
}
const scene = { asset: { version: '2.0' }, scene: 0, scenes: [{ nodes: [0] }], nodes: [{ mesh: 0 }] };
const sparse = (count: number): object => ({
  ...scene,
  meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
  buffers: [{ byteLength: 16 }],
  bufferViews: [
    { buffer: 0, byteLength: 4 },
    { buffer: 0, byteOffset: 4, byteLength: 12 },
  ],
  accessors: [
    {
      componentType: 5126,
      type: 'VEC3',
      count,
      sparse: { count: 1, indices: { bufferView: 0, componentType: 5125 }, values: { bufferView: 1 } },
    },
  ],
});

describe('headers are held against the bytes that are there', () => {
  it('of a .ply: counts that the file cannot hold, headers without an end, formats that are none', () => {
    expect(wrongWithPly(text(`${plyHeader(2, 'ascii')}0 0 0\n1 1 1\n3 0 1 1\n`))).toBeNull();
    expect(wrongWithPly(text(plyHeader(83e6)))).toMatch(/claims 83000000 of "vertex"; 20000000 are the most/);
    expect(wrongWithPly(text(plyHeader(1e6)))).toMatch(/claims more than the file holds: at least 12000001 bytes, where there are 0/);
    expect(wrongWithPly(text(plyHeader(-4)))).toMatch(/its header says "element vertex -4"/);
    expect(wrongWithPly(new Uint8Array(4096))).toMatch(/does not begin with "ply"/);
    expect(wrongWithPly(text(`ply\n${'comment\n'.repeat(20_000)}`))).toMatch(/its header has no end/);
    expect(wrongWithPly(text(plyHeader(0, 'binary_middle_endian')))).toMatch(/format "binary_middle_endian"/);
  });
  it('of a .glb: accessors, buffer views and scenes that claim more than there is', () => {
    expect(wrongWithGlb(glb(sparse(3), 16))).toBeNull();
    expect(wrongWithGlb(glb(sparse(500e6), 16))).toMatch(/accessor 0 claims 500000000 values; 20000000 are the most/);
    expect(wrongWithGlb(glb(sparse(10e6), 16))).toMatch(/accessor 0 claims 10000000 values that are not in the file/);
    const plain = { componentType: 5126, type: 'VEC3', count: 2, bufferView: 1 };
    expect(wrongWithGlb(glb({ ...sparse(3), accessors: [plain] }, 16))).toMatch(/more than its buffer view holds/);
    expect(wrongWithGlb(glb({ ...sparse(3), buffers: [{ byteLength: 4e9 }] }, 16))).toMatch(/a buffer claims more bytes/);
    expect(wrongWithGlb(glb({ ...sparse(3), bufferViews: [{ buffer: 0, byteOffset: 8, byteLength: 12 }] }, 16))).toMatch(
      /lies outside of its buffer/,
    );
    expect(wrongWithGlb(glb({ asset: { version: '2.0' } }))).toBe('it has no scene');
    expect(wrongWithGlb(glb({ ...scene, extensionsRequired: ['KHR_draco_mesh_compression'] }))).toMatch(/needs KHR_draco_mesh_compression/);
    const many = { ...sparse(1.5e6), nodes: Array.from({ length: 30 }, () => ({ mesh: 0 })) };
    expect(wrongWithGlb(glb(many, 16))).toMatch(/its scene shows 45000000 vertices/);
    expect(wrongWithGlb(text('glTFxxxxxxxxxxxxxxxxxxxxxxxxxxxx'))).toMatch(/its version/);
  });
  it('in the words of the import', async () => {
    expect(await refusal(text(plyHeader(1e6)), 'a.ply')).toMatch(/^a\.ply: its header claims more than the file holds/);
    expect(await refusal(glb({ asset: { version: '2.0' } }), 'a.glb')).toBe('a.glb: it has no scene.');
    expect(await refusal(glb(sparse(500e6), 16), 'a.glb')).toMatch(/^a\.glb: its accessor 0 claims/);
    expect(await refusal(new Uint8Array(200), 'a.stl')).toMatch(/has no triangles/);
    const stl = new Uint8Array(84);
    new DataView(stl.buffer).setUint32(80, 4e9, true);
    expect(await refusal(stl, 'a.stl')).toBe('a.stl: it claims 4000000000 triangles, more than the file holds.');
    expect(await refusal(text('PK nonsense'), 'a.zip')).toMatch(/^a\.zip: it is a damaged \.zip/);
    expect(await refusal(text('nonsense'), 'a.zip')).toBe('a.zip: it is no .zip.');
  });
});

describe('unpacking', () => {
  it('stops when it is too much, whatever the .zip claims; what is not wanted does not count', () => {
    // 30 MB of zeros in 30 kB.
    const bomb = onDisk(zipSync({ 'a.ply': new Uint8Array(30e6), 'notes.txt': new Uint8Array(40e6) }));
    expect(statSync(bomb).size).toBeLessThan(80_000);
    const unpack = (most: number, wanted = (n: string): boolean => n.endsWith('.ply')): number => {
      let bytes = 0;
      unpackZip(bomb, 'bomb.zip', { wanted, most, take: (_n, data) => (bytes += data.length) });
      return bytes;
    };
    expect(unpack(31e6)).toBe(30e6);
    expect(() => unpack(20e6)).toThrow(/bomb\.zip: it unpacks to more than 20 MB/);
    expect(unpack(1e3, () => false)).toBe(0);
  });
  it('is given up when it takes more of a core than a .zip of its size does', () => {
    const bomb = onDisk(zipSync({ 'a.ply': new Uint8Array(30e6) }));
    const unpack = (seconds?: number): void => {
      unpackZip(bomb, 'bomb.zip', {
        wanted: () => true,
        most: 2 ** 31,
        take: () => undefined,
        ...(seconds === undefined ? {} : { seconds }),
      });
    };
    expect(() => {
      unpack(0.01);
    }).toThrow(/bomb\.zip: unpacking it takes more than 10 ms of a core for its size/);
    unpack();
    expect([secondsOf(1e6), secondsOf(400e6)]).toEqual([9, 408]);
  });
  it('says of a .zip that ends too early that it is damaged', () => {
    const whole = zipSync({ 'a.ply': Uint8Array.from({ length: 5000 }, (_v, n) => (n * 7919) & 255) });
    for (const part of [0.3, 0.6]) {
      const path = onDisk(whole.subarray(0, Math.floor(whole.length * part)));
      expect(() => {
        unpackZip(path, 'cut.zip', { wanted: () => true, most: 1e6, take: () => undefined });
      }).toThrow(/cut\.zip: it is a damaged \.zip/);
    }
  });
});

describe('a process of its own', () => {
  const job = (bytes: Uint8Array, file: string) =>
    ({ kind: 'geometry', input: onDisk(bytes), file, output: join(folder, `out-${String(files)}`) }) as const;
  /** A mesh that takes its time: a long strip of triangles as text. */
  const long = (count: number): Uint8Array =>
    text(
      `${Array.from({ length: count }, (_v, n) => `v ${String(n)} ${String(n % 2)} 0`).join('\n')}\n${Array.from({ length: count - 2 }, (_v, n) => `f ${String(n + 1)} ${String(n + 2)} ${String(n + 3)}`).join('\n')}`,
    );

  it('that takes too much memory is ended, and says so; nothing is left of it', async () => {
    const big = job(long(400_000), 'big.obj');
    await expect(runImport(big, { memoryBytes: 250e6 })).rejects.toMatchObject({
      tag: 'file-invalid',
      message: expect.stringMatching(/big\.obj: it needs more than 250 MB of memory/) as string,
    });
    expect(existsSync(big.output)).toBe(false);
  });
  it('that takes too long is ended', async () => {
    await expect(runImport(job(long(400_000), 'slow.obj'), { seconds: 0.4 })).rejects.toThrow(/slow\.obj: it was given up after/);
  });
  it('is ended when whoever waits for it leaves', async () => {
    const stop = new AbortController();
    const waits = runImport(job(long(400_000), 'left.obj'), {
      signal: stop.signal,
      onProgress: () => {
        stop.abort();
      },
    });
    await expect(waits).rejects.toMatchObject({ tag: 'cancelled' });
    await expect(runImport(job(text('x'), 'a.obj'), { signal: stop.signal })).rejects.toMatchObject({ tag: 'cancelled' });
  });
  it('tells how far it has come', async () => {
    const stages: string[] = [];
    await runImport(job(long(300), 'a.obj'), { onProgress: (stage) => stages.push(stage) });
    expect(stages).toEqual(['reading', 'checking the surface', 'looking for crossings', 'keeping']);
  });
});

describe('a shot bundle', () => {
  const values = Float32Array.from([1, -1]);
  const geometry = encodeGeometry({ kind: 'distance', grid: { origin: [0, 0, 0], spacing: 0.5, size: [2, 1, 1], values } });
  const hash = createHash('sha256').update(geometry).digest('hex');
  const into = (): string => mkdtempSync(join(folder, 'unpacked-'));
  const unpack = (bytes: Uint8Array, to = into()): Promise<{ shot: string; hashes: readonly string[] }> =>
    runImport({ kind: 'unpack', input: onDisk(bytes), file: 'x.zip', folder: to });

  it('comes back as it was, by the same bytes each time', async () => {
    const path = onDisk(geometry);
    const packed = async (): Promise<Buffer> => {
      const output = join(folder, `bundle-${String(files++)}`);
      const { bytes } = await runImport({ kind: 'pack', shot: '{"ruddle":2}', geometry: { [hash]: path }, output });
      expect(statSync(output).size).toBe(bytes);
      return readFileSync(output);
    };
    const bytes = await packed();
    expect(await packed()).toEqual(bytes);
    const to = into();
    expect(await unpack(bytes, to)).toEqual({ shot: '{"ruddle":2}', hashes: [hash] });
    expect(readFileSync(join(to, hash))).toEqual(Buffer.from(geometry));
  });
  it('is refused when it is none, or when a geometry is not what its name says; nothing but geometry is unpacked', async () => {
    await expect(unpack(text('nothing'))).rejects.toThrow(/x\.zip: it is no \.zip/);
    await expect(unpack(zipSync({ 'other.txt': new Uint8Array(3) }))).rejects.toThrow(/x\.zip is not a shot bundle: it has no shot\.json/);
    const damaged = zipSync({ 'shot.json': text('{}'), [`geometry/${hash}.geometry`]: text('another') });
    await expect(unpack(damaged)).rejects.toThrow(/is damaged/);
    const foreign = text('geometry of a kind');
    const itsHash = createHash('sha256').update(foreign).digest('hex');
    await expect(unpack(zipSync({ 'shot.json': text('{}'), [`geometry/${itsHash}.geometry`]: foreign }))).rejects.toThrow(
      /is not geometry that Ruddle wrote/,
    );
    const to = into();
    await unpack(zipSync({ 'shot.json': text('{}'), '../out.txt': text('x'), 'geometry/../../x.geometry': text('x') }), to);
    expect(readdirSync(to)).toEqual([]);
  });
});
