import * as THREE from 'three';
import { type DropsLook, slabUniforms } from './drops';
import { rampTexture } from './volume';

/** Balls are that much wider than drops, so that their depths join. */
const WIDER = 1.7;
/** Rounds of smoothing, each along both axes of the picture; widest reach of one, pixels, and samples to each side: drawn in software each costs. */
const ROUNDS = 2;
const REACH = 14;
const SAMPLES = 6;

const depthVertex = /* glsl */ `
in float aSpeed;
out float vSpeed;
out float vDepth;
uniform float uSize;
uniform float uHeight;
uniform vec3 uAxis;
uniform vec2 uSlab;
void main() {
  vSpeed = aSpeed;
  vec4 eye = modelViewMatrix * vec4(position, 1.0);
  vDepth = -eye.z;
  gl_Position = projectionMatrix * eye;
  float along = dot((modelMatrix * vec4(position, 1.0)).xyz, uAxis);
  if (along < uSlab.x || along > uSlab.y) gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
  gl_PointSize = max(2.0, 0.5 * uSize * uHeight * projectionMatrix[1][1] / gl_Position.w);
}`;

/** The nearest of all balls at each pixel: how far away, and how fast. */
const depthFragment = /* glsl */ `
precision highp float;
in float vSpeed;
in float vDepth;
out vec4 result;
uniform float uSize;
uniform mat4 uProjection;
void main() {
  vec2 p = gl_PointCoord * 2.0 - 1.0;
  float r = dot(p, p);
  if (r > 1.0) discard;
  float depth = vDepth - 0.5 * uSize * sqrt(1.0 - r);
  result = vec4(depth, vSpeed, 1.0, 1.0);
  gl_FragDepth = 0.5 + 0.5 * (uProjection[2][2] * -depth + uProjection[3][2]) / depth;
}`;

const quadVertex = /* glsl */ `
out vec2 vAt;
void main() {
  vAt = position.xy * 0.5 + 0.5;
  gl_Position = vec4(position.xy, 0.0, 1.0);
}`;

/**
 * Evens out the depths along one axis. What lies far behind or in front counts as being at the edge of what may be evened out, so that an outline stays where it is
 * (narrow-range filter; Truong & Yuksel 2018).
 */
const smoothFragment = /* glsl */ `
precision highp float;
in vec2 vAt;
out vec4 result;
uniform sampler2D uFrom;
uniform vec2 uStep;
uniform float uSize;
uniform float uPixels;
void main() {
  vec4 own = texture(uFrom, vAt);
  if (own.z == 0.0) { result = own; return; }
  float reach = clamp(uPixels / own.x, 2.0, float(${String(REACH)}));
  float range = 1.5 * uSize;
  float depth = 0.0, speed = 0.0, sum = 0.0, fast = 0.0;
  for (int n = -${String(SAMPLES)}; n <= ${String(SAMPLES)}; ++n) {
    float d = float(n) / float(${String(SAMPLES)});
    vec4 there = texture(uFrom, vAt + d * reach * uStep);
    if (there.z == 0.0 || there.x > own.x + range) continue;
    float weight = exp(-3.0 * d * d);
    depth += weight * max(there.x, own.x - range);
    sum += weight;
    if (there.x < own.x - range) continue;
    speed += weight * there.y;
    fast += weight;
  }
  result = vec4(depth / sum, fast > 0.0 ? speed / fast : own.y, 1.0, 1.0);
}`;

const shadeFragment = /* glsl */ `
precision highp float;
in vec2 vAt;
out vec4 result;
uniform sampler2D uFrom;
uniform sampler2D uRamp;
uniform vec2 uPixel;
uniform vec3 uLight;
uniform mat4 uProjection;
vec3 eyeAt(vec2 at, float depth) {
  vec2 ndc = at * 2.0 - 1.0;
  return vec3(ndc.x * depth / uProjection[0][0], ndc.y * depth / uProjection[1][1], -depth);
}
vec3 slope(vec2 step, vec3 here, float own) {
  vec4 a = texture(uFrom, vAt + step);
  vec4 b = texture(uFrom, vAt - step);
  vec3 on = eyeAt(vAt + step, a.x) - here;
  vec3 back = here - eyeAt(vAt - step, b.x);
  // Of the two sides the one that stays on the surface.
  if (a.z == 0.0) return back;
  if (b.z == 0.0) return on;
  return abs(on.z) < abs(back.z) ? on : back;
}
void main() {
  vec4 own = texture(uFrom, vAt);
  if (own.z == 0.0) discard;
  vec3 here = eyeAt(vAt, own.x);
  vec3 n = normalize(cross(slope(vec2(uPixel.x, 0.0), here, own.x), slope(vec2(0.0, uPixel.y), here, own.x)));
  if (n.z < 0.0) n = -n;
  vec3 away = -normalize(here);
  float light = 0.34 + 0.66 * max(0.0, dot(n, uLight));
  float gleam = pow(max(0.0, dot(n, normalize(uLight + away))), 60.0);
  float rim = pow(1.0 - max(0.0, dot(n, away)), 4.0);
  vec3 colour = texture(uRamp, vec2(0.15 + 0.85 * own.y, 0.5)).rgb;
  result = vec4(colour * light + 0.45 * gleam + 0.18 * rim * vec3(0.85, 0.9, 0.95), 1.0);
  gl_FragDepth = 0.5 + 0.5 * (uProjection[2][2] * -own.x + uProjection[3][2]) / own.x;
}`;

const target = (): THREE.WebGLRenderTarget =>
  new THREE.WebGLRenderTarget(1, 1, {
    type: THREE.FloatType,
    format: THREE.RGBAFormat,
    minFilter: THREE.NearestFilter,
    magFilter: THREE.NearestFilter,
    depthBuffer: true,
  });

const pass = (fragmentShader: string, uniforms: Record<string, THREE.IUniform>, depth: boolean): THREE.ShaderMaterial =>
  new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: quadVertex,
    fragmentShader,
    uniforms,
    depthTest: depth,
    depthWrite: depth,
  });

/** A liquid's particles as one smooth surface, made in the picture: quick to look at, and no mesh. */
export class Skin {
  readonly #points: THREE.Points;
  readonly #scene = new THREE.Scene();
  readonly #quad = new THREE.Mesh(new THREE.PlaneGeometry(2, 2));
  readonly #quads = new THREE.Scene();
  readonly #flat = new THREE.Camera();
  readonly #targets: [THREE.WebGLRenderTarget, THREE.WebGLRenderTarget] = [target(), target()];
  readonly #depth: THREE.ShaderMaterial;
  readonly #smooth: THREE.ShaderMaterial;
  readonly #shade: THREE.ShaderMaterial;
  readonly #size: number;

  constructor(points: THREE.Points, diameter: number, look: Pick<DropsLook, 'ramp' | 'slab'>) {
    this.#size = WIDER * diameter;
    this.#points = points;
    this.#depth = new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: depthVertex,
      fragmentShader: depthFragment,
      uniforms: {
        uSize: { value: this.#size },
        uHeight: { value: 1 },
        uProjection: { value: new THREE.Matrix4() },
        ...slabUniforms(look.slab),
      },
    });
    this.#points.material = this.#depth;
    this.#scene.add(points);
    this.#smooth = pass(
      smoothFragment,
      {
        uFrom: { value: null },
        uStep: { value: new THREE.Vector2() },
        uSize: { value: this.#size },
        uPixels: { value: 1 },
      },
      false,
    );
    this.#shade = pass(
      shadeFragment,
      {
        uFrom: { value: null },
        uRamp: { value: rampTexture(look.ramp) },
        uPixel: { value: new THREE.Vector2() },
        uLight: { value: new THREE.Vector3(0.35, 0.75, 0.55).normalize() },
        uProjection: { value: new THREE.Matrix4() },
      },
      true,
    );
    this.#quad.frustumCulled = false;
    this.#quads.add(this.#quad);
  }

  /** Draws over what is in the picture, behind what lies in front; `width` and `height` in pixels, worked out at `scale` of them. */
  draw(r: THREE.WebGLRenderer, camera: THREE.PerspectiveCamera, width: number, height: number, scale: number): void {
    const [w, h] = [Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale))];
    for (const t of this.#targets) t.setSize(w, h);
    const { autoClear } = r;
    r.autoClear = false;
    const [first, second] = this.#targets;
    r.setRenderTarget(first);
    r.setClearColor(0x000000, 0);
    r.clear();
    this.#set(this.#depth, 'uHeight', h);
    this.#set(this.#depth, 'uProjection', camera.projectionMatrix);
    r.render(this.#scene, camera);
    // Pixels that a ball takes a metre away.
    this.#set(this.#smooth, 'uPixels', 0.5 * this.#size * h * (camera.projectionMatrix.elements[5] ?? 1));
    this.#quad.material = this.#smooth;
    for (let n = 0; n < ROUNDS; n++) {
      this.#blur(r, first, second, 1 / w, 0);
      this.#blur(r, second, first, 0, 1 / h);
    }
    this.#quad.material = this.#shade;
    this.#set(this.#shade, 'uFrom', first.texture);
    this.#set(this.#shade, 'uPixel', new THREE.Vector2(1 / w, 1 / h));
    this.#set(this.#shade, 'uProjection', camera.projectionMatrix);
    r.setRenderTarget(null);
    r.render(this.#quads, this.#flat);
    r.autoClear = autoClear;
  }

  #blur(r: THREE.WebGLRenderer, from: THREE.WebGLRenderTarget, into: THREE.WebGLRenderTarget, x: number, y: number): void {
    this.#set(this.#smooth, 'uFrom', from.texture);
    this.#set(this.#smooth, 'uStep', new THREE.Vector2(x, y));
    r.setRenderTarget(into);
    r.clear();
    r.render(this.#quads, this.#flat);
  }

  #set(material: THREE.ShaderMaterial, name: string, value: unknown): void {
    const uniform = material.uniforms[name];
    if (uniform) uniform.value = value;
  }

  dispose(): void {
    for (const t of this.#targets) t.dispose();
    for (const m of [this.#depth, this.#smooth, this.#shade]) m.dispose();
    this.#points.geometry.dispose();
    this.#quad.geometry.dispose();
  }
}
