import * as THREE from 'three';
import type { Box3 } from '#core/geometry';
import type { ShapeSettings } from '#core/shot';
import { rotationFromDegrees } from '#core/math';

export interface YardColours {
  readonly line: string;
  readonly solid: string;
  readonly edge: string;
  readonly source: string;
  readonly bracket: string;
}

function geometryOf(shape: ShapeSettings): THREE.BufferGeometry {
  switch (shape.kind) {
    case 'box':
      return new THREE.BoxGeometry(...shape.size);
    case 'ball':
      return new THREE.SphereGeometry(shape.radius, 32, 20);
    case 'cylinder':
      return new THREE.CylinderGeometry(shape.radius, shape.radius, shape.height, 40);
  }
}

function place(object: THREE.Object3D, shape: ShapeSettings): void {
  if (shape.kind !== 'ball') {
    const r = rotationFromDegrees(shape.rotation);
    const m = new THREE.Matrix4().set(r[0], r[1], r[2], 0, r[3], r[4], r[5], 0, r[6], r[7], r[8], 0, 0, 0, 0, 1);
    object.setRotationFromMatrix(m);
  }
  object.position.set(shape.centre[0], shape.centre[1], shape.centre[2]);
}

export function disposeAll(group: THREE.Object3D): void {
  group.traverse((o) => {
    const mesh = o as Partial<THREE.Mesh>;
    mesh.geometry?.dispose();
    const material = mesh.material;
    for (const m of Array.isArray(material) ? material : material ? [material] : []) m.dispose();
  });
  group.clear();
}

/** Solids as dark bodies with their edges. */
export function drawSolids(group: THREE.Object3D, shapes: readonly ShapeSettings[], c: YardColours): void {
  disposeAll(group);
  for (const shape of shapes) {
    const geometry = geometryOf(shape);
    const mesh = new THREE.Mesh(
      geometry,
      new THREE.MeshLambertMaterial({ color: c.solid, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 }),
    );
    place(mesh, shape);
    const edges = new THREE.LineSegments(new THREE.EdgesGeometry(geometry, 25), new THREE.LineBasicMaterial({ color: c.edge }));
    place(edges, shape);
    group.add(mesh, edges);
  }
}

/** Sources as outlines. */
export function drawSources(group: THREE.Object3D, shapes: readonly ShapeSettings[], c: YardColours): void {
  disposeAll(group);
  for (const shape of shapes) {
    const geometry = geometryOf(shape);
    const edges = new THREE.LineSegments(new THREE.EdgesGeometry(geometry, 20), new THREE.LineBasicMaterial({ color: c.source }));
    geometry.dispose();
    place(edges, shape);
    group.add(edges);
  }
}

/** Ground grid around a box: a line a metre, or a coarser round number when that would be too many. */
export function drawGround(group: THREE.Object3D, limit: Box3, c: YardColours): void {
  disposeAll(group);
  const span = Math.max(limit.max[0] - limit.min[0], limit.max[2] - limit.min[2]);
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].find((s) => span / s <= 24) ?? 200;
  const low = (v: number): number => Math.floor(v / step) * step;
  const high = (v: number): number => Math.ceil(v / step) * step;
  const [x0, x1, z0, z1] = [low(limit.min[0]), high(limit.max[0]), low(limit.min[2]), high(limit.max[2])];
  const y = Math.min(0, limit.min[1]) === limit.min[1] && limit.min[1] < 0 ? limit.min[1] : 0;
  const points: number[] = [];
  for (let x = x0; x <= x1 + step / 2; x += step) points.push(x, y, z0, x, y, z1);
  for (let z = z0; z <= z1 + step / 2; z += step) points.push(x0, y, z, x1, y, z);
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
  group.add(new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: c.line, transparent: true, opacity: 0.55 })));
}

/** A box as corner brackets. */
export function drawBrackets(group: THREE.Object3D, box: Box3 | null, colour: string, opacity: number): void {
  disposeAll(group);
  if (!box) return;
  const { min, max } = box;
  const size = [max[0] - min[0], max[1] - min[1], max[2] - min[2]] as const;
  const length = Math.min(...size) * 0.12;
  const points: number[] = [];
  for (let n = 0; n < 8; n++) {
    const corner = [n & 1, (n >> 1) & 1, n >> 2].map((s, a) => (s ? max : min)[a as 0 | 1 | 2]) as [number, number, number];
    for (const a of [0, 1, 2] as const) {
      const end: [number, number, number] = [...corner];
      end[a] += ((n >> a) & 1 ? -1 : 1) * Math.min(length, size[a] / 2);
      points.push(...corner, ...end);
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
  group.add(new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: colour, transparent: true, opacity })));
}
