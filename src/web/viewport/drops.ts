import * as THREE from 'three';
import type { PointsPreview } from '#core/formats';
import type { RampName } from '#core/look';
import { rampTexture } from './volume';

/** How drops are drawn. */
export interface DropsLook {
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

/** A liquid's particles as lit balls of their own size, coloured by their speed. */
export function dropsCloud(p: PointsPreview, height: number, { diameter, ramp, share, slab }: DropsLook): THREE.Points {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(p.places, 3, true));
  geometry.setAttribute('aSpeed', new THREE.BufferAttribute(p.speeds, 1, true));
  // They lie in the order of their cells: every so many of them is one of all places.
  const every = Math.max(1, Math.round(1 / share));
  if (every > 1) geometry.setIndex(Array.from({ length: Math.floor(p.count / every) }, (_v, n) => n * every));
  // What is left out leaves room: the others grow to fill it.
  const shown = diameter * Math.cbrt((p.of * every) / Math.max(1, p.count));
  const material = new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: vertex,
    fragmentShader: fragment,
    uniforms: {
      uRamp: { value: rampTexture(ramp) },
      uSize: { value: shown },
      uHeight: { value: height },
      uLeast: { value: LEAST },
      uAxis: { value: new THREE.Vector3(...([0, 1, 2].map((a) => (a === slab?.axis ? 1 : 0)) as [number, number, number])) },
      uSlab: { value: new THREE.Vector2(slab?.from ?? -1e9, slab?.to ?? 1e9) },
      uLight: { value: new THREE.Vector3(0.35, 0.75, 0.55).normalize() },
    },
  });
  const points = new THREE.Points(geometry, material);
  points.position.set(...p.min);
  points.scale.set(...([0, 1, 2].map((a) => Math.max(1e-9, (p.max[a] ?? 0) - (p.min[a] ?? 0))) as [number, number, number]));
  points.frustumCulled = false;
  return points;
}
