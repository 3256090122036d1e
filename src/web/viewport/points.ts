import * as THREE from 'three';
import type { PointsPreview } from '#core/formats';
import type { RampName } from '#core/look';
import { rampTexture } from './volume';

/** Width of a point, of the picture's height, and the least pixels. */
const WIDTH = 0.0035;
const LEAST = 1.6;

const vertex = /* glsl */ `
in float aSpeed;
in float aAge;
out float vSpeed;
out float vFade;
uniform float uSize;
void main() {
  vSpeed = aSpeed;
  // The last tenth of a life fades.
  vFade = clamp((1.0 - aAge) * 10.0, 0.15, 1.0);
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  gl_PointSize = uSize;
}`;

/** Discs that are lit from above: round, not square, so that a swarm reads as grains. */
const fragment = /* glsl */ `
precision highp float;
in float vSpeed;
in float vFade;
out vec4 result;
uniform sampler2D uRamp;
void main() {
  vec2 p = gl_PointCoord * 2.0 - 1.0;
  float r = dot(p, p);
  if (r > 1.0) discard;
  float light = 0.72 + 0.28 * (-p.y) * sqrt(1.0 - r);
  result = vec4(texture(uRamp, vec2(0.4 + 0.6 * vSpeed, 0.5)).rgb * light, vFade);
}`;

/** Particles, coloured by their speed. */
export function pointsCloud(p: PointsPreview, ramp: RampName, height: number): THREE.Points {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(p.places, 3, true));
  geometry.setAttribute('aSpeed', new THREE.BufferAttribute(p.speeds, 1, true));
  geometry.setAttribute('aAge', new THREE.BufferAttribute(p.ages, 1, true));
  const material = new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: vertex,
    fragmentShader: fragment,
    transparent: true,
    uniforms: { uRamp: { value: rampTexture(ramp) }, uSize: { value: Math.max(LEAST, WIDTH * height) } },
  });
  const points = new THREE.Points(geometry, material);
  // Places are parts of their box.
  points.position.set(...p.min);
  points.scale.set(...([0, 1, 2].map((a) => Math.max(1e-9, (p.max[a] ?? 0) - (p.min[a] ?? 0))) as [number, number, number]));
  points.frustumCulled = false;
  return points;
}
