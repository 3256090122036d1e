declare module 'isosurface' {
  /** A dense grid's zero line by surface nets, from a function of its points. */
  export function surfaceNets(size: readonly number[], potential: (x: number, y: number, z: number) => number): unknown;
}
