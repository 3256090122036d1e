import * as THREE from 'three';
import type { MeshPreview, PointsPreview } from '#core/formats';
import { TO_LIGHT, rampTexture } from './volume';

/** How a skin is drawn: in a matter, or by what its vertices have. */
export interface MeshLook {
  readonly as: 'clay' | 'glossy' | 'glass' | 'wire' | 'facing' | 'column';
  /** Which of its columns colours it; of `column` alone. */
  readonly column: string | null;
}

/** A skin as it is shown. */
export interface ShownMesh {
  readonly mesh: MeshPreview;
  readonly look: MeshLook;
  /** Particles that lie outside of it. */
  readonly outside: PointsPreview | null;
}

const vertex = /* glsl */ `
in vec4 aNormal;
in float aValue;
out vec3 vNormal;
out vec3 vView;
out float vValue;
void main() {
  vec4 place = modelViewMatrix * vec4(position, 1.0);
  vNormal = mat3(viewMatrix) * aNormal.xyz;
  vView = -place.xyz;
  vValue = aValue;
  gl_Position = projectionMatrix * place;
}`;

/** Sky above, ground below and a window of light: enough to read a shape by. */
const fragment = /* glsl */ `
precision highp float;
in vec3 vNormal;
in vec3 vView;
in float vValue;
out vec4 result;
uniform int uLook;
uniform vec3 uLight;
uniform vec3 uUp;
uniform vec3 uColour;
uniform sampler2D uRamp;
vec3 sky(vec3 d) {
  float h = dot(d, uUp);
  vec3 c = mix(vec3(0.19, 0.15, 0.13), vec3(0.62, 0.72, 0.78), smoothstep(-0.25, 0.45, h));
  float window = smoothstep(0.9, 0.96, dot(d, uLight));
  return c + 1.6 * window;
}
void main() {
  vec3 n = normalize(vNormal);
  vec3 v = normalize(vView);
  bool back = dot(n, v) < 0.0;
  if (uLook == 4) {
    float shade = 0.45 + 0.55 * abs(dot(n, v));
    result = vec4((back ? vec3(0.84, 0.54, 0.60) : vec3(0.36, 0.72, 0.67)) * shade, 1.0);
    return;
  }
  if (back && uLook != 2) n = -n;
  float diffuse = 0.5 + 0.5 * dot(n, uLight);
  float facing = abs(dot(n, v));
  if (uLook == 2) {
    float fresnel = 0.04 + 0.96 * pow(1.0 - facing, 5.0);
    vec3 mirrored = sky(reflect(-v, back ? -n : n));
    // Of what is seen through it a pale part stays, so that a clear body reads before a dark yard.
    vec3 bent = mix(vec3(0.42, 0.5, 0.52), sky(refract(-v, back ? -n : n, 1.0 / 1.33)), 0.45) * uColour;
    float spark = pow(max(0.0, dot(back ? -n : n, normalize(uLight + v))), 120.0);
    result = vec4(mix(bent, mirrored, fresnel) + spark, mix(0.3, 0.97, clamp(fresnel * 2.6 + spark, 0.0, 1.0)));
    return;
  }
  vec3 base = uLook == 5 ? texture(uRamp, vec2(vValue, 0.5)).rgb : uColour;
  vec3 lit = base * (0.28 + 0.72 * diffuse * diffuse) * (0.72 + 0.28 * facing);
  if (uLook == 1) {
    float fresnel = 0.045 + 0.955 * pow(1.0 - facing, 5.0);
    lit = lit * (1.0 - fresnel) + sky(reflect(-v, n)) * fresnel * 1.2 + pow(max(0.0, dot(n, normalize(uLight + v))), 90.0) * 0.9;
  }
  if (uLook == 3) lit *= 0.35;
  result = vec4(lit, 1.0);
}`;

const wireVertex = /* glsl */ `
void main() {
  vec4 place = modelViewMatrix * vec4(position, 1.0);
  gl_Position = projectionMatrix * place;
  // In front of the faces that they bound.
  gl_Position.z -= 0.0004 * gl_Position.w;
}`;

const wireFragment = /* glsl */ `
precision highp float;
out vec4 result;
uniform vec3 uLine;
void main() {
  // Many lines lie close: each is a part of the light.
  result = vec4(uLine, 0.3);
}`;

const LOOKS = { clay: 0, glossy: 1, glass: 2, wire: 3, facing: 4, column: 5 } as const;
/** Linear: pale clay; red slip; what clear liquid leaves of the light. */
const COLOURS = {
  clay: [0.66, 0.55, 0.44],
  glossy: [0.46, 0.16, 0.09],
  glass: [0.8, 0.9, 0.92],
  wire: [0.66, 0.55, 0.44],
  facing: [1, 1, 1],
  column: [1, 1, 1],
} as const;

/** A skin as a group of what is drawn; both its sides. */
export function surfaceMesh({ mesh: m, look }: Pick<ShownMesh, 'mesh' | 'look'>, line: string): THREE.Group {
  const group = new THREE.Group();
  if (m.triangles.length === 0) return group;
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(m.places, 3, true));
  geometry.setAttribute('aNormal', new THREE.BufferAttribute(m.normals, 4, true));
  const column = look.as === 'column' ? m.columns.find((c) => c.name === look.column) : undefined;
  if (column) geometry.setAttribute('aValue', new THREE.BufferAttribute(column.values, 1, true));
  geometry.setIndex(new THREE.BufferAttribute(m.triangles, 1));
  const material = (side: THREE.Side): THREE.ShaderMaterial =>
    new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: vertex,
      fragmentShader: fragment,
      side,
      transparent: look.as === 'glass',
      depthWrite: look.as !== 'glass',
      uniforms: {
        uLook: { value: look.as === 'column' && !column ? LOOKS.clay : LOOKS[look.as] },
        uLight: { value: new THREE.Vector3() },
        uUp: { value: new THREE.Vector3() },
        uColour: { value: new THREE.Vector3(...COLOURS[look.as === 'column' && !column ? 'clay' : look.as]) },
        uRamp: { value: rampTexture('patina') },
      },
    });
  const place = (mesh: THREE.Mesh, order: number): void => {
    // Places are parts of their box.
    mesh.position.set(...m.min);
    mesh.scale.set(...([0, 1, 2].map((a) => Math.max(1e-9, (m.max[a] ?? 0) - (m.min[a] ?? 0))) as [number, number, number]));
    mesh.frustumCulled = false;
    mesh.renderOrder = order;
    group.add(mesh);
  };
  /** Light and up as the camera has them. */
  const turned = (_r: unknown, _s: unknown, camera: THREE.Camera, _g: unknown, own: THREE.Material): void => {
    const { uLight, uUp } = (own as THREE.ShaderMaterial).uniforms;
    (uLight?.value as THREE.Vector3).copy(TO_LIGHT).transformDirection(camera.matrixWorldInverse);
    (uUp?.value as THREE.Vector3).set(0, 1, 0).transformDirection(camera.matrixWorldInverse);
  };
  const body = (side: THREE.Side, order: number): void => {
    const mesh = new THREE.Mesh(geometry, material(side));
    mesh.onBeforeRender = turned;
    place(mesh, order);
  };
  if (look.as === 'glass') {
    // What lies behind is seen through what lies before.
    body(THREE.BackSide, 2);
    body(THREE.FrontSide, 3);
  } else body(THREE.DoubleSide, 1);
  if (look.as === 'wire') {
    const lines = new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: wireVertex,
      fragmentShader: wireFragment,
      wireframe: true,
      transparent: true,
      depthWrite: false,
      uniforms: { uLine: { value: new THREE.Color(line) } },
    });
    place(new THREE.Mesh(geometry, lines), 2);
  }
  return group;
}

const dotVertex = /* glsl */ `
uniform float uSize;
void main() {
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  gl_PointSize = uSize;
}`;
const dotFragment = /* glsl */ `
precision highp float;
out vec4 result;
uniform vec3 uColour;
void main() {
  vec2 p = gl_PointCoord * 2.0 - 1.0;
  if (dot(p, p) > 1.0) discard;
  result = vec4(uColour, 1.0);
}`;

/** Particles that have no skin, as dots of one colour. */
export function outsideDots(p: PointsPreview, colour: string, height: number): THREE.Points {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(p.places, 3, true));
  const material = new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: dotVertex,
    fragmentShader: dotFragment,
    uniforms: { uColour: { value: new THREE.Color(colour) }, uSize: { value: Math.max(3, 0.006 * height) } },
  });
  const points = new THREE.Points(geometry, material);
  points.position.set(...p.min);
  points.scale.set(...([0, 1, 2].map((a) => Math.max(1e-9, (p.max[a] ?? 0) - (p.min[a] ?? 0))) as [number, number, number]));
  points.frustumCulled = false;
  points.renderOrder = 4;
  return points;
}
