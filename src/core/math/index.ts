export { fft3, wavesOf } from './fft';
export type { Vec3 } from './vec3';
export { type Random, hash3, inBall, mulberry32 } from './random';
export { fractalNoise } from './noise';
export { type Rotation, rotate, rotationFromDegrees, unrotate } from './rotation';
export { distanceTable, offsetOfHalfSpace } from './half-space';
