import * as THREE from 'three';
import { type ForceArrows } from '#core/flow';

/** The longest arrow, in spacings of their lattice: neighbours do not run into each other. */
const LONGEST = 0.95;

/** Arrows of a slice as lines with heads; length goes with the root of the push, so that weak ones are still seen. */
export function forceLines({ points, pushes, most, spacing }: ForceArrows, colour: string): THREE.LineSegments {
  const lines: number[] = [];
  const from = new THREE.Vector3();
  const push = new THREE.Vector3();
  const side = new THREE.Vector3();
  for (let n = 0; n < points.length; n += 3) {
    push.set(pushes[n] ?? 0, pushes[n + 1] ?? 0, pushes[n + 2] ?? 0);
    const size = push.length();
    if (most === 0 || size < 1e-3 * most) continue;
    from.set(points[n] ?? 0, points[n + 1] ?? 0, points[n + 2] ?? 0);
    const length = spacing * LONGEST * Math.sqrt(size / most);
    push.multiplyScalar(1 / size);
    side.set(-push.y, push.x, 0);
    if (side.lengthSq() < 0.05) side.set(0, -push.z, push.y);
    side.normalize();
    const tip = from.clone().addScaledVector(push, length);
    lines.push(...from.toArray(), ...tip.toArray());
    for (const s of [1, -1]) {
      const barb = tip
        .clone()
        .addScaledVector(push, -0.3 * length)
        .addScaledVector(side, s * 0.16 * length);
      lines.push(...tip.toArray(), ...barb.toArray());
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(lines, 3));
  return new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: colour, transparent: true, opacity: 0.9 }));
}

/** One arrow: where a source blows, a draught goes; without a direction a point that draws matter. */
export function directionArrow(from: readonly number[], direction: readonly number[], length: number, colour: string): THREE.Object3D {
  const along = new THREE.Vector3(...(direction as [number, number, number]));
  if (along.lengthSq() === 0) {
    // A point that draws: no direction of its own.
    const edges = new THREE.LineSegments(
      new THREE.EdgesGeometry(new THREE.OctahedronGeometry(length * 0.16)),
      new THREE.LineBasicMaterial({ color: colour }),
    );
    edges.position.set(...(from as [number, number, number]));
    return edges;
  }
  return new THREE.ArrowHelper(
    along.normalize(),
    new THREE.Vector3(...(from as [number, number, number])),
    length,
    colour,
    length * 0.22,
    length * 0.12,
  );
}
