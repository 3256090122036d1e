import * as THREE from 'three';
import type { Box3, MeshShape, Pose, Shape } from '#core/geometry';
import { type PointsGeometry, positionsAt } from '#core/mesh';
import { rotationFromDegrees } from '#core/math';
import { shownMesh } from './shown-meshes';

export interface YardColours {
  readonly line: string;
  readonly solid: string;
  readonly edge: string;
  readonly source: string;
  readonly region: string;
  readonly bracket: string;
}

/** Meshes of more triangles are drawn without their edges: finding them takes longer than drawing. */
const MOST_WITH_EDGES = 30_000;

function meshGeometry(shape: MeshShape, animation: number): THREE.BufferGeometry {
  const shown = shownMesh(shape.geometry);
  if (shown?.kind !== 'mesh') {
    // The box that it covers stands in for it.
    const { min, max } = shape.extent;
    const size = [0, 1, 2].map((a) => shape.scale * (max[a as 0 | 1 | 2] - min[a as 0 | 1 | 2])) as [number, number, number];
    const box = new THREE.BoxGeometry(...size);
    return box.translate(
      ...([0, 1, 2].map((a) => (shape.scale * (min[a as 0 | 1 | 2] + max[a as 0 | 1 | 2])) / 2) as [number, number, number]),
    );
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute(
    'position',
    new THREE.BufferAttribute(
      positionsAt(shown, animation).map((v) => v * shape.scale),
      3,
    ),
  );
  geometry.setIndex(new THREE.BufferAttribute(shown.mesh.triangles, 1));
  geometry.computeVertexNormals();
  return geometry;
}

/** Points of the file at or before a moment; none outside of the series. */
function pointGeometry({ numbers, starts, positions }: PointsGeometry, shape: MeshShape, animation: number): THREE.BufferGeometry {
  const at = (numbers[0] ?? 0) + animation;
  let file = -1;
  while (file + 1 < numbers.length && (numbers[file + 1] ?? 0) <= at + 1e-6) file++;
  if (at > (numbers[numbers.length - 1] ?? 0) + 1e-6) file = -1;
  const shown =
    file < 0 ? new Float32Array(0) : positions.slice(3 * (starts[file] ?? 0), 3 * (starts[file + 1] ?? 0)).map((v) => v * shape.scale);
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(shown, 3));
  return geometry;
}

const edgesOf = (geometry: THREE.BufferGeometry, degrees: number): THREE.BufferGeometry =>
  (geometry.getIndex()?.count ?? 0) / 3 > MOST_WITH_EDGES ? new THREE.BufferGeometry() : new THREE.EdgesGeometry(geometry, degrees);

function geometryOf({ shape, animation }: Pose): THREE.BufferGeometry {
  switch (shape.kind) {
    case 'mesh':
      return meshGeometry(shape, animation);
    case 'box':
      return new THREE.BoxGeometry(...shape.size);
    case 'ball':
      return new THREE.SphereGeometry(shape.radius, 32, 20);
    case 'cylinder':
      return new THREE.CylinderGeometry(shape.radius, shape.radius, shape.height, 40);
  }
}

function place(object: THREE.Object3D, shape: Shape): void {
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
export function drawSolids(group: THREE.Object3D, poses: readonly Pose[], c: YardColours): void {
  disposeAll(group);
  for (const pose of poses) {
    const { shape } = pose;
    const geometry = geometryOf(pose);
    const mesh = new THREE.Mesh(
      geometry,
      new THREE.MeshLambertMaterial({
        color: c.solid,
        // An open sheet is seen from both sides.
        side: shape.kind === 'mesh' ? THREE.DoubleSide : THREE.FrontSide,
        flatShading: shape.kind === 'mesh',
        polygonOffset: true,
        polygonOffsetFactor: 1,
        polygonOffsetUnits: 1,
      }),
    );
    place(mesh, shape);
    const edges = new THREE.LineSegments(edgesOf(geometry, 25), new THREE.LineBasicMaterial({ color: c.edge }));
    place(edges, shape);
    group.add(mesh, edges);
  }
}

/** A ball has no edges: three circles stand for it. */
function circles(radius: number): THREE.BufferGeometry {
  const points: number[] = [];
  const steps = 48;
  for (let a = 0; a < 3; a++) {
    for (let n = 0; n < 2 * steps; n++) {
      const t = (2 * Math.PI * Math.ceil(n / 2)) / steps;
      const p = [0, 0, 0];
      p[a] = radius * Math.cos(t);
      p[(a + 1) % 3] = radius * Math.sin(t);
      points.push(...p);
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
  return geometry;
}

/** Sources and regions as outlines. */
export function drawSources(group: THREE.Object3D, poses: readonly Pose[], colour: string): void {
  disposeAll(group);
  for (const pose of poses) {
    const { shape } = pose;
    const geometry = geometryOf(pose);
    const points = shape.kind === 'mesh' ? shownMesh(shape.geometry) : null;
    if (shape.kind === 'mesh' && points?.kind === 'points') {
      const cloud = new THREE.Points(
        pointGeometry(points, shape, pose.animation),
        new THREE.PointsMaterial({ color: colour, size: 2, sizeAttenuation: false }),
      );
      place(cloud, shape);
      group.add(cloud);
      geometry.dispose();
      continue;
    }
    const outline = shape.kind === 'ball' ? circles(shape.radius) : edgesOf(geometry, 20);
    const edges = new THREE.LineSegments(outline, new THREE.LineBasicMaterial({ color: colour }));
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
export function drawBrackets(group: THREE.Object3D, boxes: readonly Box3[], colour: string, opacity: number): void {
  disposeAll(group);
  for (const box of boxes) group.add(brackets(box, colour, opacity));
}

function brackets({ min, max }: Box3, colour: string, opacity: number): THREE.LineSegments {
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
  return new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: colour, transparent: true, opacity }));
}
