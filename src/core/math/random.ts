/** Integer hash of a lattice point and a seed; 32 bits, good avalanche (a variant of Murmur3's finaliser). */
export function hash3(x: number, y: number, z: number, seed: number): number {
  let h = Math.imul(x, 0x8da6b343) ^ Math.imul(y, 0xd8163841) ^ Math.imul(z, 0xcb1ab31f) ^ Math.imul(seed, 0x9e3779b1);
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** A sequence of numbers in [0, 1). */
export interface Random {
  (): number;
  /** Passes over the next `count` of them at once. */
  skip(count: number): void;
}

const STRIDE = 0x6d2b79f5;

/** Small seeded generator of numbers in [0, 1) (mulberry32); the same seed gives the same sequence everywhere. */
export function mulberry32(seed: number): Random {
  let state = seed >>> 0;
  const next = (): number => {
    state = (state + STRIDE) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return Object.assign(next, {
    skip: (count: number) => {
      state = (state + Math.imul(count, STRIDE)) >>> 0;
    },
  });
}

/** A place in the unit ball, evenly: those of a cube until one lies in it. Written into `into`. */
export function inBall(random: () => number, into: [number, number, number]): void {
  let [x, y, z] = [0, 0, 0];
  do {
    x = 2 * random() - 1;
    y = 2 * random() - 1;
    z = 2 * random() - 1;
  } while (x * x + y * y + z * z > 1);
  into[0] = x;
  into[1] = y;
  into[2] = z;
}
