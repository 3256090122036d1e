import type { ParticleColumns } from '#core/formats';
import { hash3, inBall, mulberry32 } from '#core/math';
import type { FedSettings } from '#core/shot';

/** Particles that give something at a frame: metres, m/s, seconds. */
export interface Chosen {
  readonly count: number;
  /** Where each is at the frame, and how fast it goes there. */
  readonly places: Float32Array;
  readonly velocities: Float32Array;
  /** What the gas around it takes on, m/s. */
  readonly given: Float32Array;
  /** Seconds that it had lived by the frame. */
  readonly ages: Float32Array;
  /** The fastest, of those that go and of what is given, m/s. */
  readonly fastest: number;
}

type Test = Pick<FedSettings, 'test' | 'least' | 'most' | 'share' | 'inherits' | 'velocitySpread' | 'seed'>;

/** Of what is drawn from a hash: 2^-32. */
const UNIT = 2 ** -32;

/** Those of a frame that pass the test. What is drawn by chance depends on a particle's number and the seed alone: the same ones in every frame. */
export function chosenOf({ count, places, motions, ids }: ParticleColumns, settings: Test): Chosen {
  const { test, share, inherits, velocitySpread, seed } = settings;
  const [least, most] = [settings.least ?? -Infinity, settings.most ?? Infinity];
  const out = {
    places: new Float32Array(3 * count),
    velocities: new Float32Array(3 * count),
    given: new Float32Array(3 * count),
    ages: new Float32Array(count),
  };
  const away: [number, number, number] = [0, 0, 0];
  let taken = 0;
  let fastest = 0;
  for (let p = 0; p < count; p++) {
    const o = 4 * p;
    const [vx, vy, vz] = [motions[o] as number, motions[o + 1] as number, motions[o + 2] as number];
    const [age, limit, id] = [places[o + 3] as number, motions[o + 3] as number, ids[p] as number];
    const speed = Math.hypot(vx, vy, vz);
    if (test !== 'all') {
      const value = { age, part: limit > 0 ? age / limit : 0, speed, number: id }[test];
      if (value < least || value > most) continue;
    }
    if (share < 1 && hash3(id, 0x51ab, 0, seed) * UNIT >= share) continue;
    const to = 3 * taken;
    out.places[to] = places[o] as number;
    out.places[to + 1] = places[o + 1] as number;
    out.places[to + 2] = places[o + 2] as number;
    out.velocities[to] = vx;
    out.velocities[to + 1] = vy;
    out.velocities[to + 2] = vz;
    if (velocitySpread > 0) inBall(mulberry32(hash3(id, 0x5b1d, 1, seed)), away);
    const [x, y, z] = away;
    const far = velocitySpread * speed;
    out.given[to] = inherits * (vx + far * x);
    out.given[to + 1] = inherits * (vy + far * y);
    out.given[to + 2] = inherits * (vz + far * z);
    out.ages[taken++] = age;
    fastest = Math.max(fastest, speed, Math.abs(inherits) * speed * (1 + velocitySpread));
  }
  return { count: taken, ...out, fastest };
}
