import * as THREE from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { Box3, Pose } from '#core/geometry';
import { type ContactSlice, type ForceArrows } from '#core/flow';
import type { PointsPreview, Preview } from '#core/formats';
import { CHANNEL_LOOK, type LookChannel } from '#core/look';
import { directionArrow, forceLines } from './arrows';
import { Handles } from './handles';
import { sliceFragment, worldVertex } from './shaders';
import { fetchMeshes } from './shown-meshes';
import { type ContactColours, contactPlane } from './contact-plane';
import { type DropsLook, dropPlaces, dropsCloud, velocityLines } from './drops';
import { type ShownMesh, outsideDots, surfaceMesh } from './mesh';
import { Skin } from './skin';
import { pointsCloud } from './points';
import { type ShownVolume, Smokes } from './smoke';
import { TO_LIGHT, rampTexture } from './volume';
import { type YardColours, disposeAll, drawBrackets, drawGround, drawSolids, drawSources } from './yard';

/** Where the camera stands and what it looks at, metres. */
export interface View {
  readonly position: readonly [number, number, number];
  readonly target: readonly [number, number, number];
  /** Upright angle, degrees. */
  readonly fieldOfView: number;
  /** Width over height of the picture that it was chosen in: a narrower one shows as much from side to side. */
  readonly aspect?: number;
}

/** What stands in the yard. */
export interface StageScene {
  readonly solids: readonly Pose[];
  readonly sources: readonly Pose[];
  /** Where forces act. */
  readonly regions: readonly Pose[];
  /** Which way sources blow and draughts go: from where, and a vector whose length means nothing. */
  readonly directions: readonly {
    readonly of: 'source' | 'region';
    readonly from: readonly [number, number, number];
    readonly direction: readonly [number, number, number];
  }[];
  readonly limit: Box3;
  /** Limit boxes of the bounds beside. */
  readonly beside: readonly Box3[];
}

export interface SliceSetting {
  readonly axis: 'x' | 'y' | 'z';
  /** 0..1 through the limit box. */
  readonly at: number;
}

/** Box around all bounds of a scene. */
export const extentOf = ({ limit, beside }: StageScene): Box3 => {
  const side = (f: (...v: number[]) => number, end: 'min' | 'max', a: 0 | 1 | 2): number => f(...[limit, ...beside].map((b) => b[end][a]));
  return {
    min: [side(Math.min, 'min', 0), side(Math.min, 'min', 1), side(Math.min, 'min', 2)],
    max: [side(Math.max, 'max', 0), side(Math.max, 'max', 1), side(Math.max, 'max', 2)],
  };
};

/** A picture that takes longer than this while something moves is drawn smaller, milliseconds. */
const QUICK = 45;
/** The same while something computes: a picture drawn in software takes the cores that it needs. */
const GENTLE = 28;
/**
 * Then a picture is also followed by a pause of this many times its own length. Drawn in software beside a run, one took 150 to 300 ms, and with one for
 * every new frame the page was busy two thirds of the time: a press of "Cancel" came seconds late, and the run took twice as long.
 */
const GENTLE_PAUSE = 3;
/** The picture at rest may take this long. */
const PATIENT = 450;
const REST_AFTER = 180;
/** What lies further out to the sides than this (width over height) may be lost in a narrower picture. */
const WIDEST = 1.25;
/** Upright, degrees. */
const FIELD_OF_VIEW = 32;
/** Air around the content, a part of its width. */
const AIR = 1.12;
const MIN_SCALE = 0.18;

/** Everything that draws; knows nothing of React. Draws only when something changed; quick while it moves, fine at rest. */
export class Stage {
  readonly #renderer: THREE.WebGLRenderer;
  readonly #scene = new THREE.Scene();
  readonly #opaque = new THREE.Scene();
  readonly #camera = new THREE.PerspectiveCamera(FIELD_OF_VIEW, 1, 0.1, 400);
  readonly #controls: OrbitControls;
  readonly #smokes = new Smokes();
  readonly #solids = new THREE.Group();
  readonly #sources = new THREE.Group();
  readonly #regions = new THREE.Group();
  readonly #ground = new THREE.Group();
  readonly #bounds = new THREE.Group();
  readonly #besides = new THREE.Group();
  readonly #slice = new THREE.Group();
  readonly #contact = new THREE.Group();
  readonly #arrows = new THREE.Group();
  readonly #points = new THREE.Group();
  /** A skin of triangles, and what lies outside of it. */
  readonly #mesh = new THREE.Group();
  /** Particles as one surface; null: they are none. */
  #skin: Skin | null = null;
  /** Which way sources blow and draughts go. */
  readonly #directions = new THREE.Group();
  readonly handles: Handles;
  #sliceTexture: THREE.Data3DTexture | null = null;
  #content: Box3 | null = null;
  #view: { readonly fieldOfView: number; readonly aspect: number } = { fieldOfView: FIELD_OF_VIEW, aspect: 1 };
  #width = 1;
  #height = 1;
  #movingScale = 0.4;
  #restScale = 0.7;
  #moving = false;
  readonly #pixel = new Uint8Array(4);
  #gentle = false;
  /** The user drags: pictures follow the hand. */
  #held = false;
  /** End of the last picture of smoke and how long it took, milliseconds. */
  #drawn = 0;
  #took = 0;
  #pause: ReturnType<typeof setTimeout> | undefined;
  #restTimer: ReturnType<typeof setTimeout> | undefined;
  #request = 0;
  #background = new THREE.Color();
  #limit: Box3 = { min: [-1, 0, -1], max: [1, 2, 1] };
  #disposed = false;
  #yardTurn = 0;
  /** The camera is set by the program: nobody needs to be told. */
  #placing = false;
  /** Called after every picture: metres that 100 pixels show at the point that is looked at. */
  onView: (metresPer100: number) => void = () => undefined;
  onDrawn: () => void = () => undefined;
  /** Whether what is shown is all that there is to draw. */
  onRest: (resting: boolean) => void = () => undefined;
  #resting = false;
  /** Called when the user moved the camera. */
  onCamera: (view: View) => void = () => undefined;

  constructor(canvas: HTMLCanvasElement) {
    this.#renderer = new THREE.WebGLRenderer({ canvas, antialias: true, alpha: false, powerPreference: 'high-performance' });
    this.#renderer.autoClear = false;
    this.#renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    const sun = new THREE.DirectionalLight(0xfff3e2, 2.4);
    sun.position.copy(TO_LIGHT);
    this.#opaque.add(this.#solids, new THREE.HemisphereLight(0xbfd0d8, 0x2a1d18, 1.1), sun);
    this.#scene.add(
      this.#ground,
      this.#sources,
      this.#regions,
      this.#bounds,
      this.#besides,
      this.#slice,
      this.#contact,
      this.#arrows,
      this.#points,
      this.#mesh,
      this.#directions,
    );
    this.#controls = new OrbitControls(this.#camera, canvas);
    this.#controls.enableDamping = false;
    this.#controls.addEventListener('start', () => {
      this.#held = true;
      this.#move(true);
    });
    this.#controls.addEventListener('end', () => {
      this.#held = false;
      this.#move(false);
    });
    this.#controls.addEventListener('change', () => {
      this.invalidate();
      if (!this.#placing) this.onCamera(this.view());
    });
    this.handles = new Handles(this.#scene, this.#camera, canvas, () => {
      this.invalidate();
    });
    this.handles.onDrag = (dragging) => {
      this.#controls.enabled = !dragging;
      this.#held = dragging;
      this.#move(dragging);
    };
    this.#camera.position.set(8, 6, 14);
    // What the graphics driver took away is drawn anew.
    canvas.addEventListener('webglcontextrestored', this.#restored);
  }

  readonly #restored = (): void => {
    this.invalidate();
  };

  /** Taken up by the next picture: changing the canvas empties it, and what stands there stays until another is whole. */
  setSize(width: number, height: number): void {
    this.#width = width;
    this.#height = height;
    this.#camera.aspect = width / height;
    this.#open();
    this.invalidate();
  }

  #fit(): void {
    const size = this.#renderer.getSize(new THREE.Vector2());
    if (size.x !== this.#width || size.y !== this.#height) this.#renderer.setSize(this.#width, this.#height, false);
  }

  /** Opens the lens: wider than the view says where the picture is narrower than the one that it was chosen in. */
  #open(): void {
    const { fieldOfView, aspect } = this.#view;
    const lens = (wider: number): void => {
      this.#camera.fov = (Math.atan(Math.tan((fieldOfView * Math.PI) / 360) * wider) * 360) / Math.PI;
      this.#camera.updateProjectionMatrix();
    };
    lens(1);
    const widest = Math.max(1, Math.min(aspect, WIDEST) / this.#camera.aspect);
    if (widest > 1) lens(this.#content ? Math.min(widest, Math.max(1, this.#reachOf(this.#content))) : widest);
  }

  /** How many times wider the lens must be for a box to be seen from side to side, with a little air. */
  #reachOf({ min, max }: Box3): number {
    this.#camera.updateMatrixWorld();
    let reach = 0;
    for (const x of [min[0], max[0]])
      for (const y of [min[1], max[1]])
        for (const z of [min[2], max[2]]) {
          const p = new THREE.Vector3(x, y, z).applyMatrix4(this.#camera.matrixWorldInverse);
          // No lens sees a point beside the camera or behind it.
          if (p.z > -this.#camera.near) return Infinity;
          const half = -p.z * Math.tan((this.#camera.fov * Math.PI) / 360);
          reach = Math.max(reach, Math.abs(p.x) / (half * this.#camera.aspect), Math.abs(p.y) / half);
        }
    return reach * AIR;
  }

  /** The content's box: a narrow picture opens its lens as far as the box needs, and no further. */
  setContent(box: Box3 | null): void {
    this.#content = box;
    this.#open();
    this.invalidate();
  }

  setYard(scene: StageScene, colours: YardColours, background: string): void {
    const { solids, sources, regions, limit } = scene;
    const turn = ++this.#yardTurn;
    const hashes = [...solids, ...sources, ...regions].flatMap(({ shape }) => (shape.kind === 'mesh' ? [shape.geometry] : []));
    void fetchMeshes(hashes).then((news) => {
      if (news && turn === this.#yardTurn && !this.#disposed) this.setYard(scene, colours, background);
    });
    this.#limit = limit;
    this.#background = new THREE.Color(background);
    drawSolids(this.#solids, solids, colours);
    this.#showBodies();
    drawSources(this.#sources, sources, colours.source);
    drawSources(this.#regions, regions, colours.region);
    drawGround(this.#ground, extentOf(scene), colours);
    drawBrackets(this.#besides, scene.beside, colours.bracket, 0.5);
    disposeAll(this.#directions);
    const length = 0.12 * Math.max(...([0, 1, 2] as const).map((a) => limit.max[a] - limit.min[a]));
    for (const d of scene.directions) {
      this.#directions.add(directionArrow(d.from, d.direction, length, d.of === 'source' ? colours.source : colours.region));
    }
    this.invalidate();
  }

  setBounds(boxes: readonly Box3[], colour: string): void {
    drawBrackets(this.#bounds, boxes, colour, 0.9);
    this.invalidate();
  }

  /** Shows a frame of each bounds; light follows when its shadow volume is ready. */
  setFrames(frames: readonly ShownVolume[]): void {
    this.#smokes.show(frames, () => {
      // While frames follow each other the next picture has it: one more for the light alone would halve their rate.
      if (!this.#disposed && !this.#moving && this.#restTimer === undefined) this.invalidate();
    });
    this.invalidate();
  }

  setSlice(preview: Preview | null, channel: LookChannel, voxelSize: number, setting: SliceSetting | null): void {
    disposeAll(this.#slice);
    this.#sliceTexture?.dispose();
    this.#sliceTexture = null;
    if (preview && setting) {
      const { min, max } = this.#limit;
      const size = [max[0] - min[0], max[1] - min[1], max[2] - min[2]] as const;
      const axis = { x: 0, y: 1, z: 2 }[setting.axis] as 0 | 1 | 2;
      const texture = new THREE.Data3DTexture(preview.data, ...preview.size);
      texture.format = THREE.RedFormat;
      texture.minFilter = THREE.LinearFilter;
      texture.magFilter = THREE.LinearFilter;
      texture.unpackAlignment = 1;
      texture.needsUpdate = true;
      this.#sliceTexture = texture;
      const low = new THREE.Vector3(...preview.origin).multiplyScalar(voxelSize);
      const material = new THREE.ShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: worldVertex,
        fragmentShader: sliceFragment,
        side: THREE.DoubleSide,
        transparent: true,
        uniforms: {
          uValue: { value: texture },
          uRamp: { value: rampTexture(channel === 'density' ? 'patina' : CHANNEL_LOOK[channel].ramp) },
          uMin: { value: low },
          uMax: { value: low.clone().addScaledVector(new THREE.Vector3(...preview.size), preview.step * voxelSize) },
        },
      });
      const plane = new THREE.PlaneGeometry(axis === 0 ? size[2] : size[0], axis === 1 ? size[2] : size[1]);
      const mesh = new THREE.Mesh(plane, material);
      mesh.position.set((min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2);
      mesh.position.setComponent(axis, min[axis] + size[axis] * setting.at);
      if (axis === 0) mesh.rotation.y = Math.PI / 2;
      if (axis === 1) mesh.rotation.x = -Math.PI / 2;
      this.#slice.add(mesh);
    }
    this.invalidate();
  }

  /** What is cut open is seen through: edges only. */
  #showBodies(): void {
    const open = this.#contact.children.length > 0;
    for (const child of this.#solids.children) if ((child as Partial<THREE.Mesh>).isMesh) child.visible = !open;
  }

  setContact(slice: ContactSlice | null, colours: ContactColours): void {
    disposeAll(this.#contact);
    if (slice) this.#contact.add(contactPlane(slice, colours));
    this.#showBodies();
    this.invalidate();
  }

  setArrows(arrows: ForceArrows | null, colour: string): void {
    disposeAll(this.#arrows);
    if (arrows) this.#arrows.add(forceLines(arrows, colour));
    this.invalidate();
  }

  /** Shows particles: as grains, or those of a liquid as balls. */
  setPoints(points: PointsPreview | null, drops: DropsLook | null = null): void {
    disposeAll(this.#points);
    this.#skin?.dispose();
    this.#skin = null;
    const height = this.#height * this.#renderer.getPixelRatio();
    if (points && points.count > 0) {
      if (drops?.as === 'surface') {
        const { points: places, shown } = dropPlaces(points, drops);
        this.#skin = new Skin(places, shown, drops);
      } else if (drops === null) this.#points.add(pointsCloud(points, CHANNEL_LOOK.vel.ramp, height));
      else this.#points.add((drops.as === 'lines' && velocityLines(points, drops)) || dropsCloud(points, height, drops));
    }
    this.invalidate();
  }

  /** Shows a skin, its lines and what lies outside of it in colours of the page. */
  setMesh(shown: ShownMesh | null, line: string, outside: string): void {
    disposeAll(this.#mesh);
    if (shown) {
      this.#mesh.add(surfaceMesh(shown, line));
      const height = this.#height * this.#renderer.getPixelRatio();
      if (shown.outside && shown.outside.count > 0) this.#mesh.add(outsideDots(shown.outside, outside, height));
    }
    this.invalidate();
  }

  /** Looks at a box from the front, a little from above. */
  frame(box: Box3): void {
    const centre = new THREE.Vector3().addVectors(new THREE.Vector3(...box.min), new THREE.Vector3(...box.max)).multiplyScalar(0.5);
    const size = new THREE.Vector3().subVectors(new THREE.Vector3(...box.max), new THREE.Vector3(...box.min));
    this.#view = { fieldOfView: FIELD_OF_VIEW, aspect: this.#camera.aspect };
    this.#open();
    const half = Math.tan((this.#camera.fov * Math.PI) / 360);
    const wide = Math.max(size.y, size.x / this.#camera.aspect) + size.z * 0.35;
    const distance = (wide * 0.5) / half + size.z * 0.5;
    const direction = new THREE.Vector3(0.28, 0.2, 1).normalize();
    this.#placing = true;
    this.#camera.position.copy(centre).addScaledVector(direction, distance);
    this.#camera.near = Math.max(0.05, distance / 100);
    this.#camera.far = distance * 8;
    this.#camera.updateProjectionMatrix();
    this.#controls.target.copy(centre);
    this.#controls.update();
    this.#placing = false;
    this.invalidate();
  }

  /** Turns the camera around its target, degrees: to the side, and up. */
  turn(aside: number, up: number): void {
    const { target } = this.#controls;
    const from = new THREE.Spherical().setFromVector3(this.#camera.position.clone().sub(target));
    from.theta += THREE.MathUtils.degToRad(aside);
    from.phi = Math.min(Math.PI - 0.02, Math.max(0.02, from.phi - THREE.MathUtils.degToRad(up)));
    this.#camera.position.setFromSpherical(from).add(target);
    this.#controls.update();
  }

  /** Shifts the camera and its target, in parts of the picture's height: to the side, and up. */
  shift(aside: number, up: number): void {
    const { target } = this.#controls;
    const height = 2 * this.#camera.position.distanceTo(target) * Math.tan((this.#camera.fov * Math.PI) / 360);
    const by = new THREE.Vector3(aside * height, up * height, 0).applyQuaternion(this.#camera.quaternion);
    this.#camera.position.add(by);
    target.add(by);
    this.#controls.update();
  }

  /** Goes nearer to its target: `by` of the distance is left. */
  nearer(by: number): void {
    const { target } = this.#controls;
    this.#camera.position.sub(target).multiplyScalar(by).add(target);
    this.#controls.update();
  }

  view(): View {
    const [p, t] = [this.#camera.position, this.#controls.target];
    return { position: [p.x, p.y, p.z], target: [t.x, t.y, t.z], ...this.#view };
  }

  setView(view: View): void {
    this.#placing = true;
    this.#camera.position.set(...view.position);
    this.#controls.target.set(...view.target);
    const distance = this.#camera.position.distanceTo(this.#controls.target);
    this.#view = { fieldOfView: view.fieldOfView, aspect: view.aspect ?? 1 };
    this.#camera.near = Math.max(0.05, distance / 100);
    this.#camera.far = distance * 8;
    this.#open();
    this.#controls.update();
    this.#placing = false;
    this.invalidate();
  }

  /** The picture as it is at rest, as PNG; `aspect` cuts it to a camera's format. */
  async still(aspect: number | null): Promise<Blob> {
    this.#draw(1, false);
    // The drawing buffer is only certain within this task.
    const canvas = this.#renderer.domElement;
    const [w, h] = [canvas.width, canvas.height];
    const [cw, ch] = aspect === null ? [w, h] : w / h > aspect ? [Math.round(h * aspect), h] : [w, Math.round(w / aspect)];
    const out = new OffscreenCanvas(cw, ch);
    out.getContext('2d')?.drawImage(canvas, (w - cw) / 2, (h - ch) / 2, cw, ch, 0, 0, cw, ch);
    return await out.convertToBlob({ type: 'image/png' });
  }

  /** Something moves (orbiting, playing): quick pictures until it stops. */
  setMoving(moving: boolean, gentle = false): void {
    this.#gentle = gentle;
    this.#move(moving);
  }

  #move(moving: boolean): void {
    this.#moving = moving;
    if (!moving) this.invalidate();
  }

  invalidate(): void {
    if (this.#request !== 0 || this.#disposed) return;
    this.#rest(false);
    const pause = this.#gentle && !this.#held ? this.#drawn + GENTLE_PAUSE * this.#took - performance.now() : 0;
    clearTimeout(this.#pause);
    if (pause > 1) {
      this.#pause = setTimeout(() => {
        this.invalidate();
      }, pause);
      return;
    }
    this.#request = requestAnimationFrame(() => {
      this.#request = 0;
      this.drawNow();
    });
  }

  /** Draws within this task: for a canvas that has just come and would be seen empty. */
  drawNow(): void {
    if (this.#disposed) return;
    this.#draw(this.#movingScale, true);
    clearTimeout(this.#restTimer);
    this.#restTimer = undefined;
    // While pictures follow each other there is no other rest.
    if (this.#moving) {
      this.#rest(true);
      return;
    }
    this.#restTimer = setTimeout(() => {
      this.#restTimer = undefined;
      if (this.#disposed || this.#request !== 0) return;
      this.#draw(this.#restScale, false);
      this.#rest(true);
    }, REST_AFTER);
  }

  #rest(resting: boolean): void {
    if (resting === this.#resting) return;
    this.#resting = resting;
    this.onRest(resting);
  }

  #draw(scale: number, moving: boolean): void {
    const began = performance.now();
    this.#fit();
    const distance = this.#camera.position.distanceTo(this.#controls.target);
    this.onView(((2 * distance * Math.tan((this.#camera.fov * Math.PI) / 360)) / this.#height) * 100);
    const r = this.#renderer;
    r.setRenderTarget(null);
    r.setClearColor(this.#background, 1);
    r.clear();
    r.render(this.#opaque, this.#camera);
    r.render(this.#scene, this.#camera);
    const ratio = r.getPixelRatio();
    if (this.#skin) {
      this.#skin.draw(r, this.#camera, this.#width * ratio, this.#height * ratio, scale);
      this.#time(began, scale, moving);
    }
    if (this.#smokes.shown) {
      this.#smokes.draw(this.#camera, (volume) => {
        volume.draw(r, this.#camera, this.#opaque, this.#width * ratio, this.#height * ratio, scale, moving ? 1.6 : 0.8);
      });
      this.#time(began, scale, moving);
    }
    this.onDrawn();
  }

  #time(began: number, scale: number, moving: boolean): void {
    // Without waiting for the picture its time is not known. Reading a pixel waits; finish() does not in Chromium, where every picture then
    // seemed to take no time and was marched at full size (300 ms a frame while scrubbing, drawn in software).
    const gl = this.#renderer.getContext();
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, this.#pixel);
    this.#drawn = performance.now();
    this.#took = this.#drawn - began;
    this.#adapt(this.#took, scale, moving);
  }

  /** The march's time goes with the number of pixels: aim at the time that is allowed. */
  #adapt(took: number, scale: number, moving: boolean): void {
    const aim = moving ? (this.#gentle ? GENTLE : QUICK) : PATIENT;
    const next = Math.min(1, Math.max(MIN_SCALE, scale * Math.sqrt(aim / Math.max(took, 1))));
    if (moving) this.#movingScale = this.#movingScale * 0.6 + next * 0.4;
    else this.#restScale = Math.max(this.#movingScale, next);
  }

  dispose(): void {
    this.#disposed = true;
    this.#renderer.domElement.removeEventListener('webglcontextrestored', this.#restored);
    cancelAnimationFrame(this.#request);
    clearTimeout(this.#restTimer);
    clearTimeout(this.#pause);
    this.handles.dispose();
    this.#controls.dispose();
    this.#smokes.dispose();
    this.#sliceTexture?.dispose();
    this.#skin?.dispose();
    for (const group of [
      this.#solids,
      this.#sources,
      this.#regions,
      this.#ground,
      this.#bounds,
      this.#besides,
      this.#slice,
      this.#contact,
      this.#arrows,
      this.#points,
      this.#mesh,
      this.#directions,
    ])
      disposeAll(group);
    this.#renderer.dispose();
  }
}
