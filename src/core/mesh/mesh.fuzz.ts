import fc from 'fast-check';
import { expect, it } from 'vitest';
import { isRuddleError } from '#core/errors';
import { boxSoup } from '#testing';
import { fuzz, spoiltBytes, within } from '#testing/fuzz';
import { type AnyGeometry, boxOf, decodeGeometry, encodeGeometry, isClosed, selfCrossings, tidy } from '.';

/** Points anywhere and triangles among them: holes, slivers, doubles, the same triangle turned over. */
const soup = fc
  .array(fc.tuple(...([0, 1, 2] as const).map(() => fc.integer({ min: -4, max: 4 }))), { minLength: 3, maxLength: 24 })
  .chain((points) =>
    fc.array(fc.tuple(...([0, 1, 2] as const).map(() => fc.nat(points.length - 1))), { minLength: 1, maxLength: 30 }).map((faces) => ({
      positions: Float32Array.from(points.flat()),
      triangles: Uint32Array.from(faces.flat()),
    })),
  );

it('any soup of triangles is tidied into one that has only what is real, or is refused', () => {
  fc.assert(
    fc.property(soup, (mesh) => {
      within(1000, () => {
        let tidied;
        try {
          tidied = tidy(mesh, 'soup.obj');
        } catch (error) {
          if (!isRuddleError(error, 'file-invalid')) throw error;
          return;
        }
        const { positions, triangles } = tidied.mesh;
        expect(triangles.length % 3).toBe(0);
        for (const v of triangles) expect(v).toBeLessThan(positions.length / 3);
        expect([...boxOf(positions).min, ...boxOf(positions).max].every(Number.isFinite)).toBe(true);
        isClosed(triangles, positions.length / 3);
        expect(selfCrossings(tidied.mesh)).toBeGreaterThanOrEqual(0);
      });
    }),
    fuzz(2000),
  );
});

it('spoilt geometry of the store is refused, or is one whose arrays fit each other', () => {
  const box = boxSoup([0, 0, 0], [1, 1, 1]);
  const mesh: AnyGeometry = { kind: 'mesh', mesh: box, samples: new Float32Array(2 * box.positions.length), rate: 24, count: 2 };
  const points: AnyGeometry = {
    kind: 'points',
    numbers: Int32Array.of(1, 2),
    starts: Int32Array.of(0, 2, 3),
    positions: new Float32Array(9),
    velocities: null,
    ids: null,
    radii: null,
    attributes: { age: new Float32Array(3) },
  };
  const distance: AnyGeometry = {
    kind: 'distance',
    grid: { origin: [0, 0, 0], spacing: 0.1, size: [2, 3, 4], values: new Float32Array(24) },
  };
  const picture: AnyGeometry = { kind: 'picture', picture: { width: 2, height: 2, values: new Float32Array(4) } };
  const files = [mesh, points, distance, picture].map((g) => [g.kind, encodeGeometry(g)] as const);
  fc.assert(
    fc.property(spoiltBytes(...files), ([, bytes]) => {
      within(500, () => {
        try {
          const g = decodeGeometry(bytes, 'fuzz');
          if (g.kind === 'mesh') {
            expect(g.mesh.positions.length % 3).toBe(0);
            for (const v of g.mesh.triangles) expect(v).toBeLessThan(g.mesh.positions.length / 3);
            if (g.samples) expect(g.samples.length).toBe(g.count * g.mesh.positions.length);
          }
          if (g.kind === 'points') {
            expect(g.starts.length).toBe(g.numbers.length + 1);
            expect(g.starts.at(-1)).toBe(g.positions.length / 3);
          }
          if (g.kind === 'distance') expect(g.grid.values.length).toBe(g.grid.size[0] * g.grid.size[1] * g.grid.size[2]);
          if (g.kind === 'picture') expect(g.picture.values.length).toBe(g.picture.width * g.picture.height);
        } catch (error) {
          if (!isRuddleError(error, 'file-invalid')) throw error;
        }
      });
    }),
    fuzz(1500),
  );
});
