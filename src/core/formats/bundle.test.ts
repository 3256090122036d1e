import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { isZip, packBundle, unpackBundle } from './bundle';

const HASH = '039058c6f2c0cb492c533b0a4d14ef77cc0f78abccced5287d84a1a2011cfb81';

describe('a shot bundle', () => {
  const bundle = { shot: '{"ruddle":1}', geometry: new Map([[HASH, new Uint8Array([1, 2, 3])]]) };
  it('comes back as it was, by the same bytes each time', () => {
    const bytes = packBundle(bundle);
    expect(isZip(bytes)).toBe(true);
    expect(packBundle(bundle)).toEqual(bytes);
    expect(unpackBundle(bytes, 'x.zip')).toEqual(bundle);
  });
  it('refuses what is none, and geometry that is damaged', () => {
    expect(() => unpackBundle(new Uint8Array([1, 2, 3]), 'x.zip')).toThrow(/x.zip is not a shot bundle/);
    expect(() => unpackBundle(zipSync({ 'other.txt': new Uint8Array(3) }), 'x.zip')).toThrow(/no shot.json/);
    const damaged = packBundle({ ...bundle, geometry: new Map([[HASH, new Uint8Array([1, 2, 4])]]) });
    expect(() => unpackBundle(damaged, 'x.zip')).toThrow(/is damaged/);
  });
});
