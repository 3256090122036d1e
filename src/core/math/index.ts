export { type Vec3, add3, sub3, scale3, dot3, length3, cross3 } from './vec3';
export { hash3, unitHash3, mulberry32 } from './random';
export { gradientNoise4, fractalNoise } from './noise';
export { type Rotation, rotationFromDegrees, rotate, unrotate } from './rotation';
