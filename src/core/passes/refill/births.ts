import type { ParticleColumns } from '#core/formats';
import { hash3, inBall, mulberry32 } from '#core/math';
import type { Births, Cloud } from '../flight';
import type { RefillBody } from './body';

/** Of what is drawn from a hash: 2^-32. */
const UNIT = 2 ** -32;

/**
 * Births on and around particles that are read: within a ball, along the straight path that the particle came on since the frame before. What is drawn by
 * chance depends on the particle's number, the frame and the seed alone.
 */
export class AroundBirths implements Births {
  /** Numbers of the frame before; null: there is none. */
  #before: ReadonlySet<number> | null = null;
  /** Particles that were read for the last frame. */
  parents = 0;

  constructor(
    private readonly body: RefillBody,
    private readonly points: (frame: number) => ParticleColumns,
  ) {}

  /** The frame before the next one, when that does not follow from one that was computed here. */
  goOn(frame: number): void {
    if (this.body.settings.births === 'once') this.#before = numbersOf(this.points(frame));
  }

  bear(frame: number, cloud: Cloud): void {
    const { settings, frameSeconds, firstFrame, ages } = this.body;
    const { births, seed, radius, life, lifeSpread } = settings;
    const { count, places, motions, ids } = this.points(frame);
    this.parents = count;
    const known = this.#before;
    const away: [number, number, number] = [0, 0, 0];
    for (let p = 0; p < count; p++) {
      const id = ids[p] as number;
      const o = 4 * p;
      if (births === 'once' && known?.has(id)) continue;
      // Of what was born on the way, only the time since.
      const since = ages && frame !== firstFrame ? Math.min(frameSeconds, places[o + 3] as number) : frameSeconds;
      const wanted = births === 'once' ? settings.each : settings.perSecond * since;
      // Numbers that are alike but for the last digits are hashed before they seed anything.
      const whole = Math.floor(wanted + hash3(id, births === 'once' ? 0 : frame, 0x9e11, seed) * UNIT);
      if (whole === 0) continue;
      const random = mulberry32(hash3(id, frame, 0xf111, seed));
      cloud.reserve(cloud.count + whole);
      for (let n = 0; n < whole; n++) {
        inBall(random, away);
        const [x, y, z] = away;
        // All at once: when the particle itself was born. Never 0: those below are born on the way.
        const ago = Math.max(1e-6, births === 'once' ? (ages ? since : frameSeconds * random()) : since * random());
        const at = 4 * cloud.count++;
        cloud.places[at] = (places[o] as number) - ago * (motions[o] as number) + radius * x;
        cloud.places[at + 1] = (places[o + 1] as number) - ago * (motions[o + 1] as number) + radius * y;
        cloud.places[at + 2] = (places[o + 2] as number) - ago * (motions[o + 2] as number) + radius * z;
        cloud.places[at + 3] = -ago;
        cloud.motions[at] = 0;
        cloud.motions[at + 1] = 0;
        cloud.motions[at + 2] = 0;
        cloud.motions[at + 3] = life * (1 + lifeSpread * (2 * random() - 1));
      }
    }
    if (births === 'once') this.#before = numbersOf({ ids, count });
  }
}

const numbersOf = ({ ids, count }: Pick<ParticleColumns, 'ids' | 'count'>): ReadonlySet<number> => new Set(ids.subarray(0, count));
