// How far the mean place of a half space's liquid lies from a point, within a radius of 1 and weighted with (1 - r^2)^3, by how far the surface is: closed
// forms of the kernel in src/kernels/assembly/liquid-skin.ts and surface-distance.ts.

/** Of a surface `s` away (negative: the point lies in the liquid). */
export function offsetOfHalfSpace(s: number): number {
  if (s >= 1) return 1;
  if (s <= -1) return 0;
  const antiderivative = (z: number): number => z - (4 / 3) * z ** 3 + (6 / 5) * z ** 5 - (4 / 7) * z ** 7 + z ** 9 / 9;
  const mass = antiderivative(1) - antiderivative(s);
  return mass < 1e-9 ? 1 : (1 - s * s) ** 5 / 10 / mass;
}

/** Distances for offsets of 0 to 1, evenly: the inverse, by bisection. */
export function distanceTable(entries: number): Float32Array {
  return Float32Array.from({ length: entries }, (_v, n) => {
    const wanted = n / (entries - 1);
    let [low, high] = [-1, 1];
    for (let step = 0; step < 60; step++) {
      const middle = (low + high) / 2;
      if (offsetOfHalfSpace(middle) < wanted) low = middle;
      else high = middle;
    }
    return (low + high) / 2;
  });
}
