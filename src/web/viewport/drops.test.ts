import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { pointsPreview, readPointsPreview } from '#core/formats';
import { type DropsLook, dropPlaces, velocityLines } from './drops';

const look: DropsLook = { as: 'lines', seconds: 0.5, diameter: 0.1, ramp: 'patina', share: 1, slab: null };

/** Three particles: at rest, going up with 2 m/s, going right and down with 1 m/s. */
const preview = (ways: boolean): NonNullable<ReturnType<typeof readPointsPreview>> => {
  const s = Math.SQRT1_2;
  const bytes = pointsPreview(
    {
      count: 3,
      places: Float32Array.from([0, 0, 0, 0, 1, 0, 0, 0, 0, 2, 4, 0]),
      motions: Float32Array.from([0, 0, 0, 1, 0, 2, 0, 1, s, -s, 0, 1]),
      ids: Uint32Array.from([0, 1, 2]),
    },
    1,
    false,
    ways,
  );
  const read = readPointsPreview(bytes);
  if (!read) throw new Error('cannot be read');
  return read;
};

describe('velocities as lines', () => {
  it('go from each particle as far as it goes in the time, where it goes', () => {
    const lines = velocityLines(preview(true), look);
    const way = lines?.geometry.getAttribute('aWay') as THREE.BufferAttribute;
    const ends = [1, 3, 5].map((n) => [way.getX(n), way.getY(n), way.getZ(n)]);
    expect(ends[0]).toEqual([0, 0, 0]);
    expect(ends[1]?.[1]).toBeCloseTo(1, 2);
    expect(ends[2]?.[0]).toBeCloseTo(0.354, 2);
    expect(ends[2]?.[1]).toBeCloseTo(-0.354, 2);
    // They begin where the particle is.
    const place = lines?.geometry.getAttribute('position') as THREE.BufferAttribute;
    lines?.updateMatrix();
    const begin = new THREE.Vector3().fromBufferAttribute(place, 4).applyMatrix4(lines?.matrix ?? new THREE.Matrix4());
    expect(begin.toArray().map((v) => Math.round(v * 1e3) / 1e3)).toEqual([0, 2, 4]);
    expect(way.getX(0) + way.getX(2) + way.getX(4)).toBe(0);
  });

  it('are none of a frame that says no directions, and fewer of a share', () => {
    expect(velocityLines(preview(false), look)).toBeNull();
    expect(velocityLines(preview(true), { ...look, share: 0.5 })?.geometry.getAttribute('position').count).toBe(2);
  });
});

it('what is left out leaves room for what is drawn', () => {
  const { points, shown } = dropPlaces(preview(true), { ...look, share: 0.5 });
  expect(points.geometry.getIndex()?.count).toBe(1);
  expect(shown).toBeCloseTo(0.1 * Math.cbrt(2), 6);
});
