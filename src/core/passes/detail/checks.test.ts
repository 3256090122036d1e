import { describe, expect, it } from 'vitest';
import { detailSettingsSchema } from '#core/shot';
import { detailFindings } from './checks';

const settings = detailSettingsSchema.parse({ factor: 4, mayMove: 0.2 });
const good = {
  substeps: 1,
  activeVoxels: 1e5,
  baseVoxels: 2000,
  mass: 1,
  baseMass: 1,
  apart: 0.1,
  moved: { density: 0.1, centre: 0.02, extent: 0.1 },
  spectra: null,
  across: 20,
  added: 1,
  baseSpeed: 4,
  stretch: 1.5,
  life: 20,
};
const found = (changes: (frame: number) => object): string[] =>
  detailFindings(
    settings,
    Array.from({ length: 10 }, (_v, n) => ({ ...good, frame: n + 1, ...changes(n + 1) })),
  ).map((f) => `${f.title}: ${f.text}`);

describe('what a detail pass is told', () => {
  it('nothing, when nothing is wrong', () => {
    expect(found(() => ({}))).toEqual([]);
  });

  it('that it lies elsewhere, by how much, where, and what helps', () => {
    const [text] = found((frame) => ({ moved: { ...good.moved, density: frame > 4 ? 0.4 : 0.1 } }));
    expect(text).toMatch(/^Moved by 28 % .* more than 20 % in frames 5 to 10\. Shorten "Holds within"/);
    expect(found(() => ({ moved: null }))).toEqual([]);
  });

  it('that its pattern flickers, that it overpowers the base, that there is nothing to go on from; and not for a few frames of it', () => {
    expect(found(() => ({ life: 8 }))[0]).toMatch(/renewed every 8 frames: In frames 1 to 10/);
    expect(found(() => ({ added: 3.6 }))[0]).toMatch(/eddies reach 3\.6 m\/s; the fastest of the base is 4(\.0)? m\/s/);
    expect(found(() => ({ across: 5 }))[0]).toMatch(/5 voxels of the base across: .* factor 4 /);
    expect(found((frame) => (frame < 4 ? { life: 8, added: 9, across: 3 } : {}))).toEqual([]);
  });
});
