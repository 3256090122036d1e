export type Vec3 = readonly [number, number, number];
