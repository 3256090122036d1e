import * as THREE from 'three';
import type { Preview } from '#core/formats';
import { CHANNEL_LOOK, type LightVolume, type LookChannel, type RampName, rampBytes } from '#core/look';
import { developFragment, overlayFragment, screenVertex, volumeFragment, worldVertex } from './shaders';

/** Direction towards the sun, in the demo world's yard: high, from the left, towards the viewer. */
export const TO_LIGHT = new THREE.Vector3(-0.55, 0.75, 0.38).normalize();
const RAMP_SIZE = 256;

const volumeTexture = (
  data: Uint8Array<ArrayBuffer>,
  size: readonly [number, number, number],
  format: THREE.PixelFormat = THREE.RedFormat,
): THREE.Data3DTexture => {
  const texture = new THREE.Data3DTexture(data, ...size);
  texture.format = format;
  texture.type = THREE.UnsignedByteType;
  texture.minFilter = THREE.LinearFilter;
  texture.magFilter = THREE.LinearFilter;
  texture.unpackAlignment = 1;
  texture.needsUpdate = true;
  return texture;
};

/** The texture with other voxels in it; a new one only where the size differs: allocating one costs more than filling it. */
function refill(
  texture: THREE.Data3DTexture | null,
  data: Uint8Array<ArrayBuffer>,
  size: readonly [number, number, number],
  format: THREE.PixelFormat = THREE.RedFormat,
): THREE.Data3DTexture {
  const image = texture?.image;
  if (texture && image && image.width === size[0] && image.height === size[1] && image.depth === size[2]) {
    image.data = data;
    texture.needsUpdate = true;
    return texture;
  }
  texture?.dispose();
  return volumeTexture(data, size, format);
}

/** Three bytes a voxel as four: graphics memory has no texture of three. */
function withAlpha({ data }: Preview): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array((data.length / 3) * 4).fill(255);
  for (let n = 0, o = 0; n < data.length; n += 3, o += 4) {
    out[o] = data[n] ?? 0;
    out[o + 1] = data[n + 1] ?? 0;
    out[o + 2] = data[n + 2] ?? 0;
  }
  return out;
}

export const rampTexture = (name: RampName): THREE.DataTexture => {
  const texture = new THREE.DataTexture(rampBytes(name, RAMP_SIZE), RAMP_SIZE, 1);
  texture.minFilter = THREE.LinearFilter;
  texture.magFilter = THREE.LinearFilter;
  texture.needsUpdate = true;
  return texture;
};

/** Byte (0..1) that means "nothing here": the background. */
const zeroOf = (preview: Preview, channel: LookChannel, background: number): number =>
  channel === 'density' ? 0 : Math.min(0.999, Math.max(0, (background - preview.low) / (preview.high - preview.low)));

/** A square that fills the screen. */
function screenScene(material: THREE.ShaderMaterial): THREE.Scene {
  const mesh = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), material);
  mesh.frustumCulled = false;
  return new THREE.Scene().add(mesh);
}

/** The smoke: marched into a target of its own resolution, developed there, then laid over the scene. */
export class Volume {
  readonly #material: THREE.ShaderMaterial;
  readonly #mesh: THREE.Mesh;
  readonly #scene = new THREE.Scene();
  readonly #target = new THREE.WebGLRenderTarget(4, 4, { type: THREE.HalfFloatType, depthBuffer: false });
  readonly #developed = new THREE.WebGLRenderTarget(4, 4, { depthBuffer: false });
  readonly #depth: THREE.WebGLRenderTarget;
  readonly #develop: THREE.ShaderMaterial;
  readonly #overlay: THREE.ShaderMaterial;
  readonly #developing: THREE.Scene;
  readonly #laying: THREE.Scene;
  readonly #screenCamera = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
  #voxel = 1;
  #ramp: RampName = 'chalk';
  #flame: THREE.Data3DTexture | null = null;
  #tint: THREE.Data3DTexture | null = null;
  #value: THREE.Data3DTexture | null = null;
  #light: THREE.Data3DTexture;
  shown = false;

  constructor() {
    this.#light = volumeTexture(new Uint8Array([255]), [1, 1, 1]);
    this.#depth = new THREE.WebGLRenderTarget(4, 4, { depthTexture: new THREE.DepthTexture(4, 4) });
    this.#material = new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: worldVertex,
      fragmentShader: volumeFragment,
      side: THREE.BackSide,
      depthTest: false,
      depthWrite: false,
      uniforms: {
        uValue: { value: this.#light },
        uLight: { value: this.#light },
        uRamp: { value: rampTexture('chalk') },
        uFlame: { value: this.#light },
        uFlameRamp: { value: rampTexture('blaze') },
        uBurning: { value: false },
        uTint: { value: this.#light },
        uTinted: { value: false },
        uDepth: { value: this.#depth.depthTexture },
        uMin: { value: new THREE.Vector3() },
        uMax: { value: new THREE.Vector3(1, 1, 1) },
        uResolution: { value: new THREE.Vector2(4, 4) },
        uNear: { value: 0.1 },
        uFar: { value: 100 },
        uDepthPerMetre: { value: 1 },
        uStep: { value: 0.1 },
        uZero: { value: 0 },
        uLit: { value: true },
        uSun: { value: new THREE.Color(1.5, 1.4, 1.26) },
        uSky: { value: new THREE.Color(0.24, 0.29, 0.34) },
        uBounce: { value: new THREE.Color(0.12, 0.075, 0.05) },
        uForward: { value: new THREE.Vector3() },
        uToLight: { value: TO_LIGHT },
      },
    });
    this.#mesh = new THREE.Mesh(new THREE.BoxGeometry(1, 1, 1), this.#material);
    this.#mesh.frustumCulled = false;
    this.#scene.add(this.#mesh);
    const screen = { glslVersion: THREE.GLSL3, vertexShader: screenVertex, depthTest: false, depthWrite: false };
    this.#develop = new THREE.ShaderMaterial({
      ...screen,
      fragmentShader: developFragment,
      uniforms: { uVolume: { value: this.#target.texture }, uTexel: { value: new THREE.Vector2() } },
    });
    this.#overlay = new THREE.ShaderMaterial({
      ...screen,
      fragmentShader: overlayFragment,
      transparent: true,
      blending: THREE.CustomBlending,
      blendSrc: THREE.OneFactor,
      blendDst: THREE.OneMinusSrcAlphaFactor,
      uniforms: { uVolume: { value: this.#developed.texture } },
    });
    this.#developing = screenScene(this.#develop);
    this.#laying = screenScene(this.#overlay);
  }

  get #u(): Record<string, THREE.IUniform> {
    return this.#material.uniforms;
  }

  /**
   * Takes a frame's voxels over. `voxelSize`: metres of one voxel of the run. `flame`: what burns in the smoke, `tint`: what colours it, both of the same
   * voxels.
   */
  setFrame(
    preview: Preview,
    channel: LookChannel,
    voxelSize: number,
    background: number,
    flame: Preview | null,
    tint: Preview | null,
  ): void {
    const look = CHANNEL_LOOK[channel];
    this.#value = refill(this.#value, preview.data, preview.size);
    const u = this.#u;
    this.#voxel = preview.step * voxelSize;
    const min = new THREE.Vector3(...preview.origin).multiplyScalar(voxelSize);
    const size = new THREE.Vector3(...preview.size).multiplyScalar(this.#voxel);
    u['uMin']!.value = min;
    u['uMax']!.value = min.clone().add(size);
    u['uValue']!.value = this.#value;
    u['uZero']!.value = zeroOf(preview, channel, background);
    // At full byte the optical depth a metre is that of the value it stands for.
    u['uDepthPerMetre']!.value = look.lit ? look.depth * preview.high : look.depth;
    u['uLit']!.value = look.lit;
    if (flame) this.#flame = refill(this.#flame, flame.data, flame.size);
    u['uBurning']!.value = flame !== null;
    u['uFlame']!.value = this.#flame ?? this.#light;
    if (tint) this.#tint = refill(this.#tint, withAlpha(tint), tint.size, THREE.RGBAFormat);
    u['uTinted']!.value = tint !== null;
    u['uTint']!.value = this.#tint ?? this.#light;
    const ramp = flame ? 'soot' : look.ramp;
    if (this.#ramp !== ramp) {
      (u['uRamp']!.value as THREE.Texture).dispose();
      u['uRamp']!.value = rampTexture(ramp);
      this.#ramp = ramp;
    }
    this.#mesh.position.copy(min).addScaledVector(size, 0.5);
    this.#mesh.scale.copy(size);
    this.shown = true;
  }

  /** Of the box that it fills, metres. */
  get middle(): THREE.Vector3 {
    return this.#mesh.position;
  }

  /** null: no shadow yet, all light arrives. */
  setLight(light: LightVolume | null): void {
    this.#light = light ? refill(this.#light, light.data, light.size) : refill(this.#light, new Uint8Array([255]), [1, 1, 1]);
    this.#u['uLight']!.value = this.#light;
  }

  /** Marches at a part of the canvas's resolution and lays the result over what is drawn. */
  draw(
    renderer: THREE.WebGLRenderer,
    camera: THREE.PerspectiveCamera,
    solids: THREE.Scene,
    width: number,
    height: number,
    scale: number,
    stepVoxels: number,
  ): void {
    const w = Math.max(2, Math.round(width * scale));
    const h = Math.max(2, Math.round(height * scale));
    if (this.#target.width !== w || this.#target.height !== h) {
      this.#target.setSize(w, h);
      this.#developed.setSize(w, h);
      this.#depth.setSize(w, h);
    }
    const u = this.#u;
    (u['uResolution']!.value as THREE.Vector2).set(w, h);
    u['uNear']!.value = camera.near;
    u['uFar']!.value = camera.far;
    u['uStep']!.value = this.#voxel * stepVoxels;
    camera.getWorldDirection(u['uForward']!.value as THREE.Vector3);
    renderer.setRenderTarget(this.#depth);
    renderer.clear();
    renderer.render(solids, camera);
    renderer.setRenderTarget(this.#target);
    renderer.setClearColor(0x000000, 0);
    renderer.clear();
    renderer.render(this.#scene, camera);
    (this.#develop.uniforms['uTexel']!.value as THREE.Vector2).set(0.75 / w, 0.75 / h);
    renderer.setRenderTarget(this.#developed);
    renderer.render(this.#developing, this.#screenCamera);
    renderer.setRenderTarget(null);
    renderer.render(this.#laying, this.#screenCamera);
  }

  dispose(): void {
    this.#value?.dispose();
    this.#flame?.dispose();
    this.#tint?.dispose();
    this.#light.dispose();
    this.#target.dispose();
    this.#depth.dispose();
    this.#material.dispose();
    this.#developed.dispose();
    this.#develop.dispose();
    this.#overlay.dispose();
    this.#mesh.geometry.dispose();
  }
}
