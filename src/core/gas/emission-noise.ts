import type { SolverSeconds } from '#core/flow';
import type { KernelTeam } from '#core/grid';
import { SUBSAMPLES } from './emission';
import type { GasSource } from './options';

/** Points of an item of the kernel, and of a launch: the memory is set aside once, however large a source is. */
const ITEM = 64;
const LAUNCH = 256 * ITEM;
const MOST_OCTAVES = 16;

/** Emission noise at many points at once, by the kernel; what `emission` gives one by one, in single precision. */
export class EmissionNoise {
  readonly #times: number;
  readonly #points: number;
  readonly #out: number;

  constructor(private readonly team: KernelTeam) {
    this.#times = team.allocate(SUBSAMPLES * MOST_OCTAVES * 8);
    this.#points = team.allocate(LAUNCH * 12);
    this.#out = team.allocate(LAUNCH * 4);
  }

  /** Of each point (x, y, z in turn, metres), averaged over the `dt` seconds from `time` on; null: 1 everywhere. */
  at(position: Float32Array, { noise }: Pick<GasSource, 'noise'>, time: SolverSeconds, dt: number): Float32Array | null {
    if (!noise || noise.amount === 0) return null;
    const { team } = this;
    const octaves = Math.min(MOST_OCTAVES, noise.octaves);
    const whole = team.words(this.#times, SUBSAMPLES * octaves * 2);
    const rest = team.floats(this.#times, SUBSAMPLES * octaves * 2);
    for (let m = 0; m < SUBSAMPLES; m++) {
      const t = (time + ((m + 0.5) / SUBSAMPLES) * dt) / noise.change;
      for (let o = 0; o < octaves; o++) {
        const at = t * Math.sqrt(2 ** o);
        const n = 2 * (m * octaves + o);
        whole[n] = Math.floor(at);
        rest[n + 1] = at - Math.floor(at);
      }
    }
    const { size, seed, amount } = noise;
    const out = new Float32Array(position.length / 3);
    for (let begin = 0; begin < out.length; begin += LAUNCH) {
      const count = Math.min(LAUNCH, out.length - begin);
      team.floats(this.#points, count * 3).set(position.subarray(3 * begin, 3 * (begin + count)));
      const items = Math.ceil(count / ITEM);
      team.launch('emissionNoise', items, this.#points, this.#out, this.#times, SUBSAMPLES, octaves, size, seed, amount);
      out.set(team.floats(this.#out, count), begin);
    }
    return out;
  }
}
