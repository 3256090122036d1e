import * as THREE from 'three';
import { TransformControls } from 'three/examples/jsm/controls/TransformControls.js';
import type { Box3 } from '#core/geometry';
import { rotationFromDegrees } from '#core/math';
import type { ShapeSettings } from '#core/shot';

export type HandleMode = 'move' | 'turn' | 'size' | 'aim';
const MODES = { move: 'translate', turn: 'rotate', size: 'scale', aim: 'rotate' } as const;

type Triple = [number, number, number];
const short = (v: number): number => Number(v.toPrecision(5));
/** To the millimetre, and without the noise of floats. */
const placed = (v: number): number => Math.round(v * 1000) / 1000;

/** The factor of the axis that was pulled. */
const largest = (s: THREE.Vector3): number =>
  [s.x, s.y, s.z].reduce((a, b) => (Math.abs(Math.log(Math.abs(b))) > Math.abs(Math.log(Math.abs(a))) ? b : a));

/** A shape as it is after its proxy was moved, turned or scaled. */
function shapeFrom(before: ShapeSettings, proxy: THREE.Object3D): ShapeSettings {
  const centre: Triple = [placed(proxy.position.x), placed(proxy.position.y), placed(proxy.position.z)];
  const scale = proxy.scale;
  const size = (v: number, by: number): number => Math.max(1e-3, short(v * Math.abs(by)));
  if (before.kind === 'ball') return { ...before, centre, radius: size(before.radius, Math.max(scale.x, scale.y, scale.z)) };
  // About x, then y, then z of the world: Z Y X in the order of three.
  const euler = new THREE.Euler().setFromQuaternion(proxy.quaternion, 'ZYX');
  const degrees = (r: number): number => Math.round((r * 180) / Math.PI / 0.1) * 0.1;
  const rotation = [degrees(euler.x), degrees(euler.y), degrees(euler.z)].map((v) => short(v) || 0) as Triple;
  if (before.kind === 'box') {
    return {
      ...before,
      centre,
      rotation,
      size: [size(before.size[0], scale.x), size(before.size[1], scale.y), size(before.size[2], scale.z)],
    };
  }
  // One factor for all axes: nothing of an imported thing is ever scaled unevenly.
  if (before.kind === 'mesh') return { ...before, centre, rotation, scale: short(before.scale * Math.abs(largest(scale))) };
  return { ...before, centre, rotation, radius: size(before.radius, Math.max(scale.x, scale.z)), height: size(before.height, scale.y) };
}

/** Places a shape with handles, or the limit box by its six sides. Changes are told while they are dragged and once more at the end. */
export class Handles {
  readonly #control: TransformControls;
  readonly #proxy = new THREE.Object3D();
  readonly #sides = new THREE.Group();
  readonly #ray = new THREE.Raycaster();
  #shape: ShapeSettings | null = null;
  #box: Box3 | null = null;
  #dragged: { readonly side: number; readonly offset: number } | null = null;
  #aimed: readonly [number, number, number] | null = null;
  onAim: (velocity: Triple, done: boolean) => void = () => undefined;
  /** `done`: the hand let go. */
  onShape: (shape: ShapeSettings, done: boolean) => void = () => undefined;
  onBox: (box: Box3, done: boolean) => void = () => undefined;
  /** Something is dragged: the camera must hold still. */
  onDrag: (dragging: boolean) => void = () => undefined;

  constructor(
    scene: THREE.Scene,
    private readonly camera: THREE.PerspectiveCamera,
    private readonly canvas: HTMLCanvasElement,
    private readonly invalidate: () => void,
  ) {
    this.#control = new TransformControls(camera, canvas);
    this.#control.setSize(0.75);
    scene.add(this.#proxy, this.#control.getHelper(), this.#sides);
    // Ruddle red across, verdigris up, saffron to the front: of the palette, and apart in both themes.
    this.#control.setColors('#d8694b', '#46a596', '#cf9526', '#f2ead9');
    this.#control.addEventListener('change', invalidate);
    this.#control.addEventListener('objectChange', () => {
      this.#tell(false);
    });
    this.#control.addEventListener('dragging-changed', (event) => {
      const dragging = event.value === true;
      this.onDrag(dragging);
      if (!dragging) this.#tell(true);
    });
    // Before the camera's own controls see it.
    canvas.addEventListener('pointerdown', this.#down, true);
    canvas.addEventListener('pointermove', this.#move, true);
    canvas.addEventListener('pointerup', this.#up, true);
  }

  #tell(done: boolean): void {
    if (!this.#shape) return;
    if (!this.#aimed) {
      this.onShape(shapeFrom(this.#shape, this.#proxy), done);
      return;
    }
    const v = new THREE.Vector3(...this.#aimed).applyQuaternion(this.#proxy.quaternion);
    this.onAim([short(v.x) || 0, short(v.y) || 0, short(v.z) || 0].map((x) => (Math.abs(x) < 1e-4 * v.length() ? 0 : x)) as Triple, done);
  }

  /** `velocity`: what "aim" turns. */
  setShape(shape: ShapeSettings | null, mode: HandleMode, velocity: readonly [number, number, number] | null): void {
    if (this.#control.dragging) return;
    this.#shape = shape;
    this.#aimed = mode === 'aim' && velocity ? velocity : null;
    if (!shape) {
      this.#control.detach();
      this.invalidate();
      return;
    }
    this.#proxy.scale.setScalar(1);
    this.#proxy.position.set(...shape.centre);
    this.#proxy.rotation.set(0, 0, 0);
    if (shape.kind !== 'ball' && !this.#aimed) {
      const r = rotationFromDegrees(shape.rotation);
      this.#proxy.setRotationFromMatrix(new THREE.Matrix4().set(r[0], r[1], r[2], 0, r[3], r[4], r[5], 0, r[6], r[7], r[8], 0, 0, 0, 0, 1));
    }
    this.#control.setMode((shape.kind === 'ball' && mode === 'turn') || (mode === 'aim' && !this.#aimed) ? 'translate' : MODES[mode]);
    this.#control.setSpace(mode === 'move' || mode === 'aim' ? 'world' : 'local');
    this.#control.attach(this.#proxy);
    this.invalidate();
  }

  setBox(box: Box3 | null, colour: string): void {
    if (this.#dragged) return;
    this.#box = box;
    for (const child of this.#sides.children) ((child as THREE.Mesh).material as THREE.Material).dispose();
    this.#sides.clear();
    if (box) {
      const size = 0.018 * Math.max(...([0, 1, 2] as const).map((a) => box.max[a] - box.min[a]));
      for (let side = 0; side < 6; side++) {
        const mesh = new THREE.Mesh(
          new THREE.BoxGeometry(size, size, size),
          new THREE.MeshBasicMaterial({ color: colour, depthTest: false }),
        );
        mesh.position.copy(this.#place(box, side));
        mesh.renderOrder = 10;
        mesh.userData['side'] = side;
        this.#sides.add(mesh);
      }
    }
    this.invalidate();
  }

  /** Middle of a side: 0, 1: low and high x, then y, then z. */
  #place(box: Box3, side: number): THREE.Vector3 {
    const at = new THREE.Vector3(...([0, 1, 2] as const).map((a) => (box.min[a] + box.max[a]) / 2));
    const axis = (side >> 1) as 0 | 1 | 2;
    return at.setComponent(axis, side % 2 === 0 ? box.min[axis] : box.max[axis]);
  }

  #aim(event: PointerEvent): void {
    const r = this.canvas.getBoundingClientRect();
    const at = new THREE.Vector2(((event.clientX - r.left) / r.width) * 2 - 1, 1 - ((event.clientY - r.top) / r.height) * 2);
    this.#ray.setFromCamera(at, this.camera);
  }

  /** Where along a side's axis the pointer's ray comes nearest. */
  #along(side: number): number {
    const axis = side >> 1;
    const origin = this.#box ? this.#place(this.#box, side) : new THREE.Vector3();
    const along = new THREE.Vector3().setComponent(axis, 1);
    const { origin: from, direction } = this.#ray.ray;
    const between = new THREE.Vector3().subVectors(from, origin);
    const b = along.dot(direction);
    const denominator = 1 - b * b;
    if (denominator < 1e-4) return origin.getComponent(axis);
    return origin.getComponent(axis) + (along.dot(between) - b * direction.dot(between)) / denominator;
  }

  readonly #down = (event: PointerEvent): void => {
    if (!this.#box || event.button !== 0) return;
    this.#aim(event);
    const hit = this.#ray.intersectObjects(this.#sides.children)[0];
    if (!hit) return;
    const side = Number(hit.object.userData['side']);
    const axis = (side >> 1) as 0 | 1 | 2;
    this.#dragged = { side, offset: this.#box[side % 2 === 0 ? 'min' : 'max'][axis] - this.#along(side) };
    this.canvas.setPointerCapture(event.pointerId);
    this.onDrag(true);
    event.stopImmediatePropagation();
  };

  readonly #move = (event: PointerEvent): void => {
    if (!this.#dragged || !this.#box) return;
    event.stopImmediatePropagation();
    this.#aim(event);
    const { side, offset } = this.#dragged;
    const axis = (side >> 1) as 0 | 1 | 2;
    const low = side % 2 === 0;
    const wanted = Math.round((this.#along(side) + offset) * 20) / 20;
    const other = this.#box[low ? 'max' : 'min'][axis];
    const value = low ? Math.min(wanted, other - 0.05) : Math.max(wanted, other + 0.05);
    const corner: Triple = [...this.#box[low ? 'min' : 'max']];
    corner[axis] = placed(value);
    this.#box = { ...this.#box, [low ? 'min' : 'max']: corner };
    for (const child of this.#sides.children) child.position.copy(this.#place(this.#box, Number(child.userData['side'])));
    this.onBox(this.#box, false);
    this.invalidate();
  };

  readonly #up = (event: PointerEvent): void => {
    if (!this.#dragged || !this.#box) return;
    event.stopImmediatePropagation();
    this.#dragged = null;
    this.onDrag(false);
    this.onBox(this.#box, true);
  };

  dispose(): void {
    this.canvas.removeEventListener('pointerdown', this.#down, true);
    this.canvas.removeEventListener('pointermove', this.#move, true);
    this.canvas.removeEventListener('pointerup', this.#up, true);
    this.setBox(null, '#000000');
    this.#control.detach();
    this.#control.dispose();
  }
}
