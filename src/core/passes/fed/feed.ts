import type { ParticleColumns } from '#core/formats';
import type { Feed, GasState } from '#core/gas';
import type { FedBody } from './body';
import { type Chosen, chosenOf } from './chosen';
import { CELLS, FACES, Splat } from './splat';

const TIME_SLACK = 1e-9;
/** A fast particle gives at so many places a substep at most, a voxel apart: it leaves no gaps. */
const PLACES_MOST = 16;
const NOBODY: Chosen = {
  count: 0,
  places: new Float32Array(0),
  velocities: new Float32Array(0),
  given: new Float32Array(0),
  ages: new Float32Array(0),
  fastest: 0,
};

/**
 * Cached particles as a source of gas. Between two frames each is on the straight line that its velocity draws back from the later one, from its birth on.
 * Around it density and heat are added, a second, and the velocity is drawn to its own; where particles lie close, they add up to a whole voxel and no more.
 */
export class ParticleFeed implements Feed {
  #frame: number | null = null;
  #chosen: Chosen = NOBODY;
  readonly #splat = new Splat();

  constructor(
    private readonly body: FedBody,
    private readonly points: (frame: number) => ParticleColumns,
  ) {}

  /** Particles that give at the frame that was asked for last. */
  get chosen(): number {
    return this.#chosen.count;
  }

  /** The frame of the particles that a time up to `end` belongs to, and those that give something then. */
  #at(end: number): { readonly chosen: Chosen; readonly time: number } {
    const { options, given, settings } = this.body;
    const { firstFrame, framesPerSecond } = options;
    const frame = firstFrame + Math.ceil((end - TIME_SLACK) * framesPerSecond - TIME_SLACK);
    const next = given.first + Math.ceil((frame - given.first) / given.every) * given.every;
    const time = (next - firstFrame) / framesPerSecond;
    const active = frame >= (settings.from ?? -Infinity) && frame <= (settings.to ?? Infinity) && next >= given.first && next <= given.last;
    // Before the first frame with particles nothing moved towards it.
    if (!active || frame < given.first) {
      [this.#frame, this.#chosen] = [null, NOBODY];
      return { chosen: NOBODY, time };
    }
    if (this.#frame !== next) [this.#frame, this.#chosen] = [next, chosenOf(this.points(next), settings)];
    return { chosen: this.#chosen, time };
  }

  readonly speed: Feed['speed'] = (time, dt) => (this.body.settings.inherits === 0 ? 0 : this.#at(time + dt).chosen.fastest);

  readonly touches: Feed['touches'] = (time, dt) => {
    const h = this.body.options.voxelSize;
    const { chosen, time: at } = this.#at(time + dt);
    const { density, heat, inherits, densityRadius, heatRadius, velocityRadius } = this.body.settings;
    const radius = h + Math.max(density === null ? 0 : densityRadius, heat === null ? 0 : heatRadius, inherits === 0 ? 0 : velocityRadius);
    const { places, velocities } = chosen;
    const tiles = new Set<number>();
    const [early, late] = [time - at, time + dt - at];
    for (let p = 0; p < 3 * chosen.count; p += 3) {
      const low = (a: number): number => {
        const [x, v] = [places[p + a] as number, velocities[p + a] as number];
        return Math.floor((x + Math.min(early * v, late * v) - radius) / h) >> 3;
      };
      const high = (a: number): number => {
        const [x, v] = [places[p + a] as number, velocities[p + a] as number];
        return Math.floor((x + Math.max(early * v, late * v) + radius) / h) >> 3;
      };
      const [i1, j1, k1] = [high(0), high(1), high(2)];
      for (let i = low(0); i <= i1; i++)
        for (let j = low(1); j <= j1; j++)
          for (let k = low(2); k <= k1; k++) tiles.add(((i + BIAS) * SIDE + (j + BIAS)) * SIDE + (k + BIAS));
    }
    const boxes: number[] = [];
    for (const key of tiles) {
      const row = Math.floor(key / SIDE);
      const [x, y, z] = [8 * (Math.floor(row / SIDE) - BIAS), 8 * ((row % SIDE) - BIAS), 8 * ((key % SIDE) - BIAS)];
      boxes.push(x, y, z, x + 7, y + 7, z + 7);
    }
    return boxes;
  };

  readonly give: Feed['give'] = (state, time, dt) => {
    const { density, heat, inherits, within, densityRadius, heatRadius, velocityRadius } = this.body.settings;
    const { chosen, time: at } = this.#at(time + dt);
    const brought = { mass: 0, heat: 0 };
    if (chosen.count === 0) return brought;
    if (density !== null) {
      this.#gather(state, chosen, at, time, dt, CELLS, densityRadius, null);
      brought.mass = this.#addDensity(state, density * dt);
    }
    if (heat !== null) {
      this.#gather(state, chosen, at, time, dt, CELLS, heatRadius, null);
      brought.heat = this.#add(state.team.floats(state.fields.temperature, state.size), heat * dt);
    }
    if (inherits !== 0) {
      const part = 1 - Math.exp(-dt / within);
      FACES.forEach((offset, axis) => {
        this.#gather(state, chosen, at, time, dt, offset, velocityRadius, axis);
        const { u, v, w } = state.fields;
        this.#draw(state.team.floats([u, v, w][axis] ?? 0, state.size), part);
      });
    }
    return brought;
  };

  /** Sums over the voxels or faces around each particle on its way; of its given velocity along an axis, or of nothing. */
  #gather(
    { team, bounds, size }: GasState,
    { count, places, velocities, given, ages }: Chosen,
    at: number,
    time: number,
    dt: number,
    offset: (typeof FACES)[number],
    radius: number,
    axis: number | null,
  ): void {
    const level = bounds.hierarchy.finest;
    const status = team.bytes(level.status, size);
    const h = this.body.options.voxelSize;
    this.#splat.begin(size);
    for (let p = 0; p < count; p++) {
      const o = 3 * p;
      const [vx, vy, vz] = [velocities[o] as number, velocities[o + 1] as number, velocities[o + 2] as number];
      const born = this.body.ages ? at - (ages[p] as number) : -Infinity;
      const begin = Math.max(time, born);
      const lasts = time + dt - begin;
      if (lasts <= 0) continue;
      const steps = Math.min(PLACES_MOST, Math.max(1, Math.ceil((Math.hypot(vx, vy, vz) * lasts) / h)));
      const share = lasts / dt / steps;
      for (let n = 0; n < steps; n++) {
        const ago = begin + ((n + 0.5) / steps) * lasts - at;
        const [x, y, z] = [(places[o] as number) + ago * vx, (places[o + 1] as number) + ago * vy, (places[o + 2] as number) + ago * vz];
        this.#splat.add(level, status, h, offset, x, y, z, radius, share, axis === null ? 0 : (given[o + axis] as number));
      }
    }
  }

  #add(field: Float32Array, amount: number): number {
    const { count, index, weight } = this.#splat;
    let brought = 0;
    for (let n = 0; n < count; n++) {
      const more = amount * Math.min(1, weight[n] as number);
      const at = index[n] as number;
      field[at] = (field[at] as number) + more;
      brought += more;
    }
    return brought;
  }

  /** Never below nothing; what rides on the density goes with it, in the same part where some is taken. */
  #addDensity({ team, fields, size }: GasState, amount: number): number {
    const density = team.floats(fields.density, size);
    const { colour } = this.body.settings;
    const carried = [fields.red, fields.green, fields.blue, fields.across, fields.up, fields.along].map((f) =>
      f === 0 ? null : team.floats(f, size),
    );
    const { count, index, weight } = this.#splat;
    let brought = 0;
    for (let n = 0; n < count; n++) {
      const at = index[n] as number;
      const was = density[at] as number;
      const now = Math.max(0, was + amount * Math.min(1, weight[n] as number));
      density[at] = now;
      brought += now - was;
      carried.forEach((field, c) => {
        if (!field) return;
        // Particles have no box that a place could be told in: texture coordinates are those of its middle.
        const own = c < 3 ? (colour[c] as number) : 0.5;
        field[at] = now >= was ? (field[at] as number) + (now - was) * own : was > 0 ? ((field[at] as number) * now) / was : 0;
      });
    }
    return brought;
  }

  #draw(field: Float32Array, part: number): void {
    const { count, index, weight, sum } = this.#splat;
    for (let n = 0; n < count; n++) {
      const at = index[n] as number;
      const w = weight[n] as number;
      const was = field[at] as number;
      field[at] = was + part * Math.min(1, w) * ((sum[n] as number) / w - was);
    }
  }
}

/** Tiles are numbered by their place: so far from the origin in each direction. */
const BIAS = 1 << 15;
const SIDE = 1 << 16;
