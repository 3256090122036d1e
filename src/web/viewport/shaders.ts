/** Passes the world position on; for the volume's box and for slices. */
export const worldVertex = /* glsl */ `
out vec3 vWorld;
void main() {
  vec4 world = modelMatrix * vec4(position, 1.0);
  vWorld = world.xyz;
  gl_Position = projectionMatrix * viewMatrix * world;
}`;

/**
 * Emission-absorption march with one light, and with flames that glow by themselves, (its transmittance from a precomputed volume) and light from the sky. The ray ends at the nearest
 * solid. Steps are jittered by a fixed hash of the pixel, so that bands become grain and a picture at rest does not flicker.
 */
export const volumeFragment = /* glsl */ `
precision highp float;
precision highp sampler3D;
in vec3 vWorld;
out vec4 result;
uniform sampler3D uValue;
uniform sampler3D uLight;
uniform sampler2D uRamp;
uniform sampler3D uFlame;
uniform sampler2D uFlameRamp;
uniform bool uBurning;
uniform sampler3D uTint;
uniform bool uTinted;
uniform sampler2D uDepth;
uniform vec3 uMin;
uniform vec3 uMax;
uniform vec2 uResolution;
uniform float uNear;
uniform float uFar;
uniform float uDepthPerMetre;
uniform float uStep;
uniform float uZero;
uniform bool uLit;
uniform vec3 uSun;
uniform vec3 uSky;
uniform vec3 uBounce;
uniform vec3 uForward;
uniform vec3 uToLight;

float linearDepth(float d) {
  float z = d * 2.0 - 1.0;
  return 2.0 * uNear * uFar / (uFar + uNear - z * (uFar - uNear));
}

void main() {
  vec3 origin = cameraPosition;
  vec3 ray = normalize(vWorld - origin);
  vec3 inv = 1.0 / ray;
  vec3 a = (uMin - origin) * inv;
  vec3 b = (uMax - origin) * inv;
  vec3 lo = min(a, b);
  vec3 hi = max(a, b);
  float enter = max(max(max(lo.x, lo.y), lo.z), 0.0);
  float leave = min(min(hi.x, hi.y), hi.z);
  float depth = texture(uDepth, gl_FragCoord.xy / uResolution).r;
  if (depth < 1.0) leave = min(leave, linearDepth(depth) / max(dot(ray, uForward), 1e-3));
  if (leave <= enter) { result = vec4(0.0); return; }
  vec3 scale = 1.0 / (uMax - uMin);
  float jitter = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715))));
  float t = enter + uStep * jitter;
  vec3 colour = vec3(0.0);
  float through = 1.0;
  // Forward scattering makes a rim of light towards the sun.
  float cosine = dot(ray, uToLight);
  float g = 0.35;
  float phase = mix(1.0, (1.0 - g * g) / pow(1.0 + g * g - 2.0 * g * cosine, 1.5), 0.55);
  for (int n = 0; n < 320; n++) {
    if (t >= leave || through < 0.01) break;
    vec3 p = (origin + ray * t - uMin) * scale;
    float byte = texture(uValue, p).r;
    float value = max(byte - uZero, 0.0) / (1.0 - uZero);
    if (value > 0.004) {
      float optical = value * uDepthPerMetre * uStep;
      float alpha = 1.0 - exp(-optical);
      vec3 base;
      if (uTinted) {
        base = texture(uTint, p).rgb;
      } else {
        base = texture(uRamp, vec2(uLit ? value : byte, 0.5)).rgb;
        base = base * base;
      }
      vec3 light = vec3(1.0);
      if (uLit) {
        float s = texture(uLight, p).r;
        s *= s;
        // A second, weaker lobe stands for light scattered more than once: deep shadow is not black.
        float deep = pow(s, 0.25);
        light = uSun * (s * phase + 0.22 * deep) + uSky * (0.35 + 0.65 * p.y) + uBounce * (1.0 - p.y);
      } else {
        light = vec3(0.55 + 0.6 * value);
      }
      colour += through * alpha * base * light;
      through *= 1.0 - alpha;
    }
    if (uBurning) {
      float flame = texture(uFlame, p).r;
      if (flame > 0.01) {
        vec3 glow = texture(uFlameRamp, vec2(sqrt(flame), 0.5)).rgb;
        // A flame gives light by what burns in the step; it hides as much as it gives, or the light would be thinned to pink where it is laid over.
        float lit = 1.0 - exp(-flame * 14.0 * uStep);
        colour += through * lit * glow * glow * (0.8 + 3.2 * flame);
        through *= 1.0 - lit;
      }
    }
    t += uStep;
  }
  result = vec4(colour, 1.0 - through);
}`;

export const screenVertex = /* glsl */ `
out vec2 vUv;
void main() {
  vUv = uv;
  gl_Position = vec4(position.xy, 0.0, 1.0);
}`;

/**
 * The march's colours as they are shown: a small tent filter against its grain, then the filmic curve, premultiplied. At the march's resolution: for every
 * pixel of the canvas, as it was, this took 50 of the 75 milliseconds of a quick picture drawn in software.
 */
export const developFragment = /* glsl */ `
precision highp float;
in vec2 vUv;
out vec4 result;
uniform sampler2D uVolume;
uniform vec2 uTexel;
void main() {
  vec4 v = texture(uVolume, vUv) * 0.4
    + (texture(uVolume, vUv + vec2(uTexel.x, 0.0)) + texture(uVolume, vUv - vec2(uTexel.x, 0.0))
    + texture(uVolume, vUv + vec2(0.0, uTexel.y)) + texture(uVolume, vUv - vec2(0.0, uTexel.y))) * 0.15;
  vec3 c = v.a > 0.0 ? v.rgb / v.a : vec3(0.0);
  c = (c * (2.51 * c + 0.03)) / (c * (2.43 * c + 0.59) + 0.14);
  result = vec4(pow(clamp(c, 0.0, 1.0), vec3(1.0 / 2.2)) * v.a, v.a);
}`;

/** Lays the developed volume over the scene. */
export const overlayFragment = /* glsl */ `
precision mediump float;
in vec2 vUv;
out vec4 result;
uniform sampler2D uVolume;
void main() {
  result = texture(uVolume, vUv);
}`;

export const sliceFragment = /* glsl */ `
precision highp float;
precision highp sampler3D;
in vec3 vWorld;
out vec4 result;
uniform sampler3D uValue;
uniform sampler2D uRamp;
uniform vec3 uMin;
uniform vec3 uMax;
void main() {
  vec3 p = (vWorld - uMin) / (uMax - uMin);
  if (any(lessThan(p, vec3(0.0))) || any(greaterThan(p, vec3(1.0)))) discard;
  float byte = texture(uValue, p).r;
  result = vec4(texture(uRamp, vec2(byte, 0.5)).rgb, 0.9);
}`;
