import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Document, WebIO } from '@gltf-transform/core';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import { afterAll, describe, expect, it } from 'vitest';
import { isRuddleError } from '#core/errors';
import { writeVdb } from '#core/formats';
import { type Geometry, boxOf, decodeGeometry, formsOf, positionsAt } from '#core/mesh';
import { importedShape } from '#core/shot';
import { ballSoup, boxSoup, sheetSoup, type Soup } from '#testing';
import { type Made, makeGeometry as makeFromFile } from './make';
import { importGeometry as importFile, pngOf } from '.';

const folder = mkdtempSync(join(tmpdir(), 'ruddle-importing-'));
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});
let files = 0;
/** The bytes as a file on the disk. */
const onDisk = (bytes: Uint8Array): string => {
  const path = join(folder, String(files++));
  writeFileSync(path, bytes);
  return path;
};
const makeGeometry = (bytes: Uint8Array, file: string): Promise<Made> => makeFromFile(onDisk(bytes), file);
const importGeometry = (bytes: Uint8Array, file: string): ReturnType<typeof importFile> => importFile(onDisk(bytes), file);

const text = (s: string): Uint8Array => new TextEncoder().encode(s);
const corners = (m: Soup): string[] =>
  Array.from({ length: m.positions.length / 3 }, (_v, n) => [...m.positions.subarray(3 * n, 3 * n + 3)].join(' '));
const faces = (m: Soup, plus: number): string[] =>
  Array.from({ length: m.triangles.length / 3 }, (_v, n) => [...m.triangles.subarray(3 * n, 3 * n + 3)].map((v) => v + plus).join(' '));
const asObj = (m: Soup): Uint8Array => text([...corners(m).map((c) => `v ${c}`), ...faces(m, 1).map((f) => `f ${f}`)].join('\n'));
const asPly = (m: Soup): Uint8Array =>
  text(
    [
      'ply',
      'format ascii 1.0',
      `element vertex ${String(m.positions.length / 3)}`,
      'property float x',
      'property float y',
      'property float z',
      `element face ${String(m.triangles.length / 3)}`,
      'property list uchar int vertex_indices',
      'end_header',
      ...corners(m),
      ...faces(m, 0).map((f) => `3 ${f}`),
      '',
    ].join('\n'),
  );
function asStl(m: Soup): Uint8Array {
  const count = m.triangles.length / 3;
  const view = new DataView(new ArrayBuffer(84 + 50 * count));
  view.setUint32(80, count, true);
  m.triangles.forEach((v, n) => {
    const at = 84 + 50 * Math.floor(n / 3) + 12 + 12 * (n % 3);
    for (let a = 0; a < 3; a++) view.setFloat32(at + 4 * a, m.positions[3 * v + a] ?? 0, true);
  });
  return new Uint8Array(view.buffer);
}

type Part = 'still' | 'moved' | 'morphed' | 'skinned';
/** A box of edge 1 around the origin; in one second it goes 2 along x, by its node, a morph target or a bone. */
async function asGlb(part: Part): Promise<Uint8Array> {
  const box = boxSoup([-0.5, -0.5, -0.5], [0.5, 0.5, 0.5]);
  const d = new Document();
  const buffer = d.createBuffer();
  const accessor = (type: 'VEC3' | 'VEC4' | 'SCALAR' | 'MAT4', array: Float32Array | Uint16Array): ReturnType<Document['createAccessor']> =>
    d.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const primitive = d
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', box.positions))
    .setIndices(accessor('SCALAR', Uint16Array.from(box.triangles)));
  const mesh = d.createMesh().addPrimitive(primitive);
  const node = d.createNode('box').setMesh(mesh);
  const scene = d.createScene().addChild(node);
  const times = accessor('SCALAR', Float32Array.from([0, 1]));
  const animate = (
    target: ReturnType<Document['createNode']>,
    path: 'translation' | 'weights',
    values: number[],
    type: 'VEC3' | 'SCALAR',
  ): void => {
    const sampler = d
      .createAnimationSampler()
      .setInput(times)
      .setOutput(accessor(type, Float32Array.from(values)))
      .setInterpolation('LINEAR');
    const channel = d.createAnimationChannel().setTargetNode(target).setTargetPath(path).setSampler(sampler);
    d.createAnimation('go').addSampler(sampler).addChannel(channel);
  };
  if (part === 'moved') animate(node, 'translation', [0, 0, 0, 2, 0, 0], 'VEC3');
  if (part === 'morphed') {
    const shift = Float32Array.from(box.positions, (_v, n) => (n % 3 === 0 ? 2 : 0));
    primitive.addTarget(d.createPrimitiveTarget().setAttribute('POSITION', accessor('VEC3', shift)));
    mesh.setWeights([0]);
    animate(node, 'weights', [0, 1], 'SCALAR');
  }
  if (part === 'skinned') {
    const bone = d.createNode('bone');
    scene.addChild(bone);
    const eye = Float32Array.from([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);
    primitive.setAttribute('JOINTS_0', accessor('VEC4', new Uint16Array(32))).setAttribute(
      'WEIGHTS_0',
      accessor(
        'VEC4',
        Float32Array.from({ length: 32 }, (_v, n) => (n % 4 === 0 ? 1 : 0)),
      ),
    );
    node.setSkin(d.createSkin().addJoint(bone).setInverseBindMatrices(accessor('MAT4', eye)));
    animate(bone, 'translation', [0, 0, 0, 2, 0, 0], 'VEC3');
  }
  return await new WebIO().writeBinary(d);
}
const meshOf = (made: Made): Geometry => decodeGeometry(made.bytes, 'x') as Geometry;

describe('importing a mesh', () => {
  const box = boxSoup([1, 0, 0], [3, 1, 4]);
  it('reads .obj, .ply and .stl alike: joined, around its middle, the same geometry by the same name', async () => {
    const all = [await makeGeometry(asObj(box), 'a.obj'), await makeGeometry(asPly(box), 'a.ply'), await makeGeometry(asStl(box), 'a.STL')];
    for (const { info } of all) {
      expect(info).toMatchObject({
        kind: 'mesh',
        centre: [2, 0.5, 2],
        size: [2, 1, 4],
        triangles: 12,
        seconds: 0,
        sheet: false,
        notes: [],
      });
      expect(info.extent).toEqual({ min: [-1, -0.5, -2], max: [1, 0.5, 2] });
      expect(info.unit).toBe('metre');
    }
    expect(all[0]?.info.hash).toBe(all[1]?.info.hash);
  });
  it('guesses the unit from the size', async () => {
    const unitOf = async (edge: number, file: string): Promise<string> =>
      (await makeGeometry(file.endsWith('stl') ? asStl(ballSoup(edge / 2, 8)) : asObj(ballSoup(edge / 2, 8)), file)).info.unit;
    expect(await unitOf(3, 'a.obj')).toBe('metre');
    expect(await unitOf(180, 'a.obj')).toBe('centimetre');
    expect(await unitOf(12000, 'a.stl')).toBe('millimetre');
  });
  it('says what it found: sheets, holes, triangles that look the wrong way', async () => {
    expect((await makeGeometry(asObj(sheetSoup(2)), 'a.obj')).info).toMatchObject({
      sheet: true,
      notes: [expect.stringContaining('thin wall')],
    });
    const holed = { ...box, triangles: box.triangles.slice(3) };
    expect((await makeGeometry(asObj(holed), 'a.obj')).info.notes[0]).toMatch(/holes \(3 open edges\)/);
    const over = { ...box, triangles: box.triangles.slice().reverse() };
    expect((await makeGeometry(asObj(over), 'a.obj')).info.notes[0]).toMatch(/12 triangles looked the wrong way/);
  });
  it('refuses what it cannot read, with the reason', async () => {
    const refusal = (bytes: Uint8Array, file: string): Promise<string> =>
      makeGeometry(bytes, file).then(
        () => 'read',
        (e: unknown) => (isRuddleError(e, 'file-invalid') ? e.message : `another error: ${String(e)}`),
      );
    expect(await refusal(text('hello'), 'a.txt')).toMatch(/files that are read end in \.obj \.ply \.stl \.glb or \.vdb/);
    expect(await refusal(text('v 0 0 0'), 'a.obj')).toBe('a.obj: it has no triangles.');
    expect(await refusal(text('v 0 0 nan\nv 1 0 0\nv 0 1 0\nf 1 2 3'), 'a.obj')).toMatch(/not a number/);
    expect(await refusal(text('nonsense'), 'a.glb')).toMatch(/a\.glb: it is too short/);
    expect(await refusal(text('ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nend_header\n1\n'), 'a.ply')).toMatch(/^a\.ply: /);
    expect(await refusal(text('nonsense'), 'a.vdb')).toMatch(/a\.vdb is not a \.vdb file/);
  });
  it.each(['moved', 'morphed', 'skinned'] as const)('plays the animation of a .glb that is %s', async (part) => {
    const made = await makeGeometry(await asGlb(part), 'door.glb');
    expect(made.info).toMatchObject({ seconds: 1, size: [1, 1, 1], unit: 'metre' });
    expect(made.info.extent.max[0]).toBeCloseTo(2.5, 3);
    const geometry = meshOf(made);
    expect(boxOf(positionsAt(geometry, 0)).min[0]).toBeCloseTo(-0.5, 5);
    expect(boxOf(positionsAt(geometry, 0.25)).min[0]).toBeCloseTo(0, 3);
    expect(boxOf(positionsAt(geometry, 9)).min[0]).toBeCloseTo(1.5, 3);
  });
  it('of a .glb that stands still has no animation', async () => {
    const made = await makeGeometry(await asGlb('still'), 'box.glb');
    expect(made.info.seconds).toBe(0);
    expect(meshOf(made).samples).toBeNull();
  });
  it('runs in a process of its own, and its refusals come back as they are', async () => {
    expect((await importGeometry(asObj(box), 'a.obj')).info.triangles).toBe(12);
    await expect(importGeometry(text('x'), 'a.obj')).rejects.toMatchObject({ tag: 'file-invalid' });
  });
});

describe('importing a signed distance', () => {
  const level = (sign: number, name: string): Uint8Array => {
    // A ball of radius 6 voxels around (9.5, 9.5, 9.5), the band three voxels wide.
    const origins: number[] = [];
    const values: number[] = [];
    const masks: number[] = [];
    for (let t = 0; t < 27; t++) {
      const o = [t % 3, Math.floor(t / 3) % 3, Math.floor(t / 9)].map((v) => 8 * v);
      origins.push(...o);
      const mask = new Uint8Array(64);
      for (let n = 0; n < 512; n++) {
        const d = Math.hypot((o[0] ?? 0) + (n >> 6) - 9.5, (o[1] ?? 0) + ((n >> 3) & 7) - 9.5, (o[2] ?? 0) + (n & 7) - 9.5) - 6;
        values.push(sign * 0.1 * Math.max(-3, Math.min(3, d)));
        if (Math.abs(d) < 3) mask[n >> 3] = (mask[n >> 3] ?? 0) | (1 << (n & 7));
      }
      masks.push(...mask);
    }
    const tiles = {
      name,
      components: 1 as const,
      background: [sign * 0.3],
      origins: Int32Array.from(origins),
      values: Float32Array.from(values),
      masks: Uint8Array.from(masks),
    };
    return writeVdb([{ grid: tiles, class: 'unknown', transform: { scale: [0.1, 0.1, 0.1], translation: [0, 0, 0] } }], {
      compression: 'none',
      precision: 'full',
      creator: 'test',
      uuid: '00000000-0000-4000-8000-000000000000',
    });
  };
  it('finds channel and sign, and fills what lies beyond the band', async () => {
    for (const sign of [1, -1]) {
      const { info, bytes } = await makeGeometry(level(sign, 'surface'), 'rock.vdb');
      expect(info).toMatchObject({ kind: 'distance', seconds: 0 });
      expect(info.notes.join(' ')).toContain('"surface"');
      expect(info.notes.length).toBe(sign > 0 ? 1 : 2);
      info.centre.forEach((c) => {
        expect(c).toBeCloseTo(0.95, 5);
      });
      const geometry = decodeGeometry(bytes, 'x');
      if (geometry.kind !== 'distance') throw new Error('a distance was expected');
      const { size, values } = geometry.grid;
      const at = (i: number, j: number, k: number): number => values[(k * size[1] + j) * size[0] + i] ?? NaN;
      const middle = Math.round(size[0] / 2);
      expect(at(middle, middle, middle)).toBeLessThan(-0.4);
      expect(at(0, 0, 0)).toBeGreaterThan(0.3);
    }
  });
  it('says when no channel is one', async () => {
    await expect(makeGeometry(level(0, 'surface'), 'a.vdb')).rejects.toThrow(/never change sign/);
  });
});

describe('importing points', () => {
  /** One point that goes 1 unit a frame along x from file 5, and one that stands; ages and radii with them. */
  const ply = (n: number, parts: 'all' | 'bare' = 'all'): Uint8Array =>
    text(
      [
        'ply',
        'format ascii 1.0',
        'element vertex 2',
        ...['x', 'y', 'z', ...(parts === 'all' ? ['vx', 'vy', 'vz', 'radius', 'age'] : [])].map((p) => `property float ${p}`),
        ...(parts === 'all' ? ['property int id'] : []),
        'end_header',
        parts === 'all' ? `${String(n - 5)} 0 0 24 0 0 0.5 ${String(n)} 7` : `${String(n - 5)} 0 0`,
        parts === 'all' ? '0 4 0 0 0 0 0.25 0 8' : '0 4 0',
        '',
      ].join('\n'),
    );
  it('reads a single file, and a series by its numbers, with what it carries', async () => {
    const one = await makeGeometry(ply(5), 'spray.ply');
    expect(one.info).toMatchObject({ kind: 'points', seconds: 0, size: [0, 4, 0], centre: [0, 2, 0] });
    const series = zipSync({ 'spray.0007.ply': ply(7), 'spray.0005.ply': ply(5), 'notes.txt': text('x') });
    const made = await makeGeometry(series, 'spray.zip');
    expect(made.info).toMatchObject({ kind: 'points', first: 5, seconds: 2, extent: { min: [0, -2, 0], max: [2, 2, 0] } });
    expect(made.info.notes[0]).toBe('4 points in 2 files, with velocities, with radii.');
    const geometry = decodeGeometry(made.bytes, 'x');
    if (geometry.kind !== 'points') throw new Error('points were expected');
    expect([...geometry.numbers]).toEqual([5, 7]);
    expect([...(geometry.ids ?? [])]).toEqual([7, 8, 7, 8]);
    expect([...(geometry.attributes.age ?? [])]).toEqual([5, 0, 7, 0]);
    // Where they are: at the file, and between two by their velocity at 24 frames a second.
    const shape = { ...importedShape(made.info, 1, 'y', 24), centre: [0, 0, 0] as [number, number, number] };
    expect(shape).toMatchObject({ starts: 5, pace: 24, content: 'points' });
    const form = formsOf(new Map([[made.info.hash, geometry]]))(shape, 0.1, 0);
    expect(form.distance({ shape, animation: 0 })(0, -2, 0)).toBeCloseTo(-0.5, 5);
    expect(form.distance({ shape, animation: 1 })(1, -2, 0)).toBeCloseTo(-0.5, 5);
    expect(form.distance({ shape, animation: 1 })(0, 2, 0)).toBeCloseTo(-0.25, 5);
    expect(form.velocity({ shape, animation: 1 }, { shape, animation: 1 }, 1 / 24)(1, -2, 0)).toEqual([24, 0, 0]);
    expect(form.balls?.({ shape, animation: 9 }).radii.length).toBe(0);
    const picked = { ...shape, pick: 'speed' as const, above: 10 };
    expect(form.balls?.({ shape: picked, animation: 0 }).radii.length).toBe(1);
  });
  it('says what is wrong with a series', async () => {
    const refusal = (files: Record<string, Uint8Array>): Promise<string> =>
      makeGeometry(zipSync(files), 'spray.zip').then(
        () => 'read',
        (e: unknown) => (e instanceof Error ? e.message : String(e)),
      );
    expect(await refusal({ 'a.txt': text('x') })).toMatch(/holds no \.ply/);
    expect(await refusal({ 'spray.ply': ply(5) })).toMatch(/no number before \.ply/);
    expect(await refusal({ 'a.5.ply': ply(5), 'b.0005.ply': ply(5) })).toMatch(/two of its files have the number 5/);
    expect(await refusal({ 'a.5.ply': asPly(boxSoup([0, 0, 0], [1, 1, 1])) })).toMatch(/is a mesh/);
    expect((await makeGeometry(zipSync({ 'a.1.ply': ply(1, 'bare'), 'a.2.ply': ply(2, 'bare') }), 'a.zip')).info.notes[1]).toMatch(
      /stand still/,
    );
  });
});

describe('importing a picture', () => {
  /** Two by two: white, half grey, black, transparent white. */
  const png = async (): Promise<Uint8Array> => {
    const raw = Uint8Array.from([255, 255, 255, 255, 128, 128, 128, 255, 0, 0, 0, 255, 255, 255, 255, 0]);
    return new Uint8Array(
      await sharp(raw, { raw: { width: 2, height: 2, channels: 4 } })
        .png()
        .toBuffer(),
    );
  };
  it('takes its brightness as it is shown, row by row from the top; what is transparent is black', async () => {
    const made = await importGeometry(await png(), 'grate.png');
    expect(made.info).toMatchObject({ kind: 'picture', size: [2, 2, 0], notes: [] });
    const kept = decodeGeometry(made.bytes, 'kept');
    if (kept.kind !== 'picture') throw new Error('no picture');
    expect([...kept.picture.values].map((v) => Math.round(255 * v))).toEqual([255, 128, 0, 0]);
    expect((await sharp(await pngOf(kept.picture)).metadata()).width).toBe(2);
    expect(() => importedShape(made.info, 1, 'y', 24)).toThrow(/is a picture: it has no shape/);
  });
  it('shrinks what is larger than any mask needs; says what is no picture, and what masks nothing', async () => {
    const wide = await sharp({ create: { width: 3000, height: 30, channels: 3, background: '#ffffff' } })
      .png()
      .toBuffer();
    const { info } = await makeGeometry(new Uint8Array(wide), 'wide.png');
    expect(info.size).toEqual([1024, 10, 0]);
    expect(info.notes[0]).toMatch(/masks nothing/);
    await expect(makeGeometry(text('not a picture'), 'broken.png')).rejects.toThrow(/broken\.png: it cannot be read as a picture/);
  });
});
