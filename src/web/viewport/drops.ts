import * as THREE from 'three';
import type { PointsPreview } from '#core/formats';
import type { RampName } from '#core/look';
import { rampTexture } from './volume';

/** How drops are drawn. */
export interface DropsLook {
  /** Each as a ball, all as one smooth surface, or their way in a while as lines. */
  readonly as: 'balls' | 'surface' | 'lines';
  /** How long a while is, seconds. */
  readonly seconds: number;
  /** Metres. */
  readonly diameter: number;
  readonly ramp: RampName;
  /** Part of them that is drawn. */
  readonly share: number;
  /** Only those between two planes, metres along an axis; null: all. */
  readonly slab: { readonly axis: 0 | 1 | 2; readonly from: number; readonly to: number } | null;
}

/** Least width of a drop, pixels. */
const LEAST = 1.5;

const vertex = /* glsl */ `
in float aSpeed;
out float vSpeed;
uniform float uSize;
uniform float uHeight;
uniform float uLeast;
uniform vec3 uAxis;
uniform vec2 uSlab;
void main() {
  vSpeed = aSpeed;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  float along = dot((modelMatrix * vec4(position, 1.0)).xyz, uAxis);
  // What lies outside of the slab is put where nothing is drawn.
  if (along < uSlab.x || along > uSlab.y) gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
  gl_PointSize = max(uLeast, 0.5 * uSize * uHeight * projectionMatrix[1][1] / gl_Position.w);
}`;

/** Balls: the disc's own roundness gives the direction that the light falls on. */
const fragment = /* glsl */ `
precision highp float;
in float vSpeed;
out vec4 result;
uniform sampler2D uRamp;
uniform vec3 uLight;
void main() {
  vec2 p = gl_PointCoord * 2.0 - 1.0;
  float r = dot(p, p);
  if (r > 1.0) discard;
  vec3 n = vec3(p.x, -p.y, sqrt(1.0 - r));
  float light = 0.35 + 0.65 * max(0.0, dot(n, uLight));
  float gleam = pow(max(0.0, dot(n, normalize(uLight + vec3(0.0, 0.0, 1.0)))), 24.0);
  vec3 colour = texture(uRamp, vec2(0.15 + 0.85 * vSpeed, 0.5)).rgb;
  result = vec4(colour * light + 0.22 * gleam, 1.0);
}`;

/** What a slab leaves out. */
export const slabUniforms = (slab: DropsLook['slab']): Record<string, THREE.IUniform> => ({
  uAxis: { value: new THREE.Vector3(...([0, 1, 2].map((a) => (a === slab?.axis ? 1 : 0)) as [number, number, number])) },
  uSlab: { value: new THREE.Vector2(slab?.from ?? -1e9, slab?.to ?? 1e9) },
});

/** Puts what is drawn in parts of a preview's box where it is. */
function placeIn(object: THREE.Object3D, { min, max }: PointsPreview): void {
  object.position.set(...min);
  object.scale.set(...([0, 1, 2].map((a) => Math.max(1e-9, (max[a] ?? 0) - (min[a] ?? 0))) as [number, number, number]));
  object.frustumCulled = false;
}

/** A liquid's particles as they lie, without a material of their own, and how wide each is to be drawn, metres. */
export function dropPlaces(p: PointsPreview, { diameter, share }: DropsLook): { readonly points: THREE.Points; readonly shown: number } {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(p.places, 3, true));
  geometry.setAttribute('aSpeed', new THREE.BufferAttribute(p.speeds, 1, true));
  // They lie in the order of their cells: every so many of them is one of all places.
  const every = Math.max(1, Math.round(1 / share));
  if (every > 1) geometry.setIndex(Array.from({ length: Math.floor(p.count / every) }, (_v, n) => n * every));
  // What is left out leaves room: the others grow to fill it.
  const shown = diameter * Math.cbrt((p.of * every) / Math.max(1, p.count));
  const points = new THREE.Points(geometry);
  placeIn(points, p);
  return { points, shown };
}

/** A liquid's particles as lit balls of their own size, coloured by their speed. */
export function dropsCloud(p: PointsPreview, height: number, look: DropsLook): THREE.Points {
  const { points, shown } = dropPlaces(p, look);
  points.material = new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: vertex,
    fragmentShader: fragment,
    uniforms: {
      uRamp: { value: rampTexture(look.ramp) },
      uSize: { value: shown },
      uHeight: { value: height },
      uLeast: { value: LEAST },
      ...slabUniforms(look.slab),
      uLight: { value: new THREE.Vector3(0.35, 0.75, 0.55).normalize() },
    },
  });
  return points;
}

const lineVertex = /* glsl */ `
in float aSpeed;
in vec3 aWay;
out float vSpeed;
uniform vec3 uAxis;
uniform vec2 uSlab;
void main() {
  vSpeed = aSpeed;
  vec4 at = modelMatrix * vec4(position, 1.0);
  float along = dot(at.xyz, uAxis);
  gl_Position = projectionMatrix * viewMatrix * vec4(at.xyz + aWay, 1.0);
  if (along < uSlab.x || along > uSlab.y) gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
}`;

const lineFragment = /* glsl */ `
precision highp float;
in float vSpeed;
out vec4 result;
uniform sampler2D uRamp;
void main() { result = vec4(texture(uRamp, vec2(0.3 + 0.7 * vSpeed, 0.5)).rgb, 1.0); }`;

/** The way that each particle goes in a while, as a line from where it is; null: the file says no directions. */
export function velocityLines(p: PointsPreview, { ramp, share, slab, seconds }: DropsLook): THREE.LineSegments | null {
  const { directions } = p;
  if (!directions) return null;
  const every = Math.max(1, Math.round(1 / share));
  const count = Math.floor(p.count / every);
  const places = new Uint16Array(6 * count);
  const ways = new Float32Array(6 * count);
  const speeds = new Uint8Array(2 * count);
  for (let n = 0; n < count; n++) {
    const from = n * every;
    const speed = p.speeds[from] ?? 0;
    const length = (speed / 255) * p.fastest * seconds;
    for (let a = 0; a < 3; a++) {
      places[6 * n + a] = places[6 * n + 3 + a] = p.places[3 * from + a] ?? 0;
      ways[6 * n + 3 + a] = ((directions[3 * from + a] ?? 0) / 127) * length;
    }
    speeds[2 * n] = speeds[2 * n + 1] = speed;
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(places, 3, true));
  geometry.setAttribute('aWay', new THREE.BufferAttribute(ways, 3));
  geometry.setAttribute('aSpeed', new THREE.BufferAttribute(speeds, 1, true));
  const lines = new THREE.LineSegments(
    geometry,
    new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: lineVertex,
      fragmentShader: lineFragment,
      uniforms: { uRamp: { value: rampTexture(ramp) }, ...slabUniforms(slab) },
    }),
  );
  placeIn(lines, p);
  return lines;
}
