import type { Distance, Form } from '#core/geometry';
import { type KernelTeam, type Level, RECORD_WORDS, TILE } from '#core/grid';
import type { PlainBounds } from './bounds';
import type { FlowFields } from './fields';
import type { Motion } from './moving';
import type { ForceField, FlowOptions } from './options';
import { type TurbulenceLattice, makeTurbulence, noiseArguments } from './turbulence';

/** A face of each axis lies here in its cell; the last is the cell's middle. */
const PLACES = [
  [0, 0.5, 0.5],
  [0.5, 0, 0.5],
  [0.5, 0.5, 0],
  [0.5, 0.5, 0.5],
] as const;
const CENTRE = 3;

/** How much of a force acts at a distance from its region's surface: all inside, none outside, a smooth step in between. */
export function regionWeight(distance: number, soft: number): number {
  if (soft <= 0) return distance < 0 ? 1 : 0;
  const t = Math.min(1, Math.max(0, 0.5 - distance / soft));
  return t * t * (3 - 2 * t);
}

/** Attraction pulls matter by its density. */
export interface PulledFields extends FlowFields {
  readonly density: number;
}

interface Prepared {
  readonly lattice: TurbulenceLattice | null;
  readonly form: Form | null;
}

/** The list of forces: each acts on the velocity in its region. Built once a run. */
export class ForceFields {
  readonly #prepared: readonly Prepared[];

  constructor(
    private readonly team: KernelTeam,
    private readonly options: FlowOptions,
    private readonly motion: Motion,
  ) {
    this.#prepared = options.forces.fields.map((field, n) => ({
      lattice: field.kind === 'turbulence' ? makeTurbulence(team, field) : null,
      form: motion.regionForm(n),
    }));
  }

  /** Largest acceleration that they can give, m/s^2, for matter of a density. */
  acceleration(time: number, density: number): number {
    let most = 0;
    this.#prepared.forEach((_p, n) => {
      const { field } = this.motion.field(n, time);
      if (field.kind === 'turbulence') most += 3 * Math.abs(field.strength);
      if (field.kind === 'attraction') most += Math.abs(field.strength) * density;
      if (field.kind === 'guide')
        most += (Math.abs(field.factor) * (this.motion.fieldMotion(n, time)?.speed ?? 0)) / Math.max(field.time, 1e-3);
      if (field.kind === 'draught') most += Math.hypot(...field.velocity) / Math.max(field.time, 1e-3);
    });
    return most;
  }

  /** Applies all of them for [time, time + dt]. Scratch used: a, b, c, z and, by curls, r, p, q. */
  apply(bounds: PlainBounds, f: PulledFields, time: number, dt: number): void {
    this.#prepared.forEach(({ lattice, form }, n) => {
      const { field, pose } = this.motion.field(n, time + dt / 2);
      const distance = form && pose ? form.distance(pose) : null;
      if (field.kind === 'guide') this.#guide(field, n, distance, bounds, f, time, dt);
      else this.#one(field, lattice, distance, bounds, f, time, dt);
    });
  }

  /** What lies in the region (or near it, by its soft edge) takes up the velocity of the region's own material. */
  #guide(
    field: Extract<ForceField, { kind: 'guide' }>,
    index: number,
    region: Distance | null,
    bounds: PlainBounds,
    f: PulledFields,
    time: number,
    dt: number,
  ): void {
    const { team, options } = this;
    const level = bounds.hierarchy.finest;
    const lent = this.motion.fieldMotion(index, time + dt / 2, dt);
    if (!region || !lent) return;
    const own = team.floats(f.z, bounds.size);
    const h = options.voxelSize;
    [f.u, f.v, f.w].forEach((pointer, axis) => {
      const place = PLACES[axis] ?? PLACES[CENTRE];
      weights(team, level, f.z, bounds.size, region, field.soft, h, place);
      const target = team.floats(pointer, bounds.size);
      eachOfTiles(team, level, h, place, (o, x, y, z) => {
        const weight = own[o] ?? 0;
        if (weight === 0) return;
        const goal = field.factor * (lent.velocity(x, y, z)[axis] ?? 0);
        target[o] = goal + ((target[o] ?? 0) - goal) * Math.exp((-dt / field.time) * weight);
      });
    });
  }

  #one(
    field: Exclude<ForceField, { kind: 'guide' }>,
    lattice: TurbulenceLattice | null,
    region: Distance | null,
    bounds: PlainBounds,
    f: PulledFields,
    time: number,
    dt: number,
  ): void {
    const { team, options } = this;
    const level = bounds.hierarchy.finest;
    const { window: w } = bounds;
    const h = options.voxelSize;
    const velocity = [f.u, f.v, f.w] as const;
    const { wind } = bounds;
    const weigh = (place: number): void => {
      weights(team, level, f.z, bounds.size, region, field.soft, h, PLACES[place] ?? PLACES[CENTRE]);
    };
    switch (field.kind) {
      case 'turbulence': {
        if (!lattice) return;
        const { a, b, n } = lattice;
        const t = noiseArguments(field, [w.ox, w.oy, w.oz], h, this.motion.drift(time + dt / 2), time + dt / 2, dt);
        velocity.forEach((target, axis) => {
          const into = region ? f.a : target;
          if (region) team.launch('fillTiles', level.count, level.context, f.a, 0);
          team.launch('addNoise', level.count, level.context, into, axis, a, b, n, t.gainA, t.gainB, t.scale, ...t.offset);
          if (!region) return;
          weigh(axis);
          team.launch('addWeighted', level.count, level.context, target, f.a, f.z);
        });
        if (region) team.launch('fillTiles', level.count, level.context, f.a, 0);
        break;
      }
      case 'draught':
      case 'drag':
        velocity.forEach((target, axis) => {
          const goal = (field.kind === 'draught' ? field.velocity : wind)[axis] ?? 0;
          weigh(axis);
          team.launch('relaxWeighted', level.count, level.context, target, goal, dt / field.time, f.z);
        });
        break;
      case 'attraction':
        velocity.forEach((target, axis) => {
          if (region) weigh(axis);
          const at = field.centre.map((v, a) => v / h - ([w.ox, w.oy, w.oz][a] ?? 0)) as [number, number, number];
          team.launch(
            'attract',
            level.count,
            level.context,
            target,
            axis,
            f.density,
            ...at,
            field.strength * dt,
            field.reach / h,
            region ? f.z : 0,
          );
        });
        break;
      case 'curls': {
        if (field.confinement === 0) return;
        team.launch('vorticity', level.count, level.context, ...velocity, f.a, f.b, f.c, f.z);
        const gain = (field.confinement * options.forces.confinementLength * dt) / h;
        team.launch('confinement', level.count, level.context, f.a, f.b, f.c, f.z, gain, f.r, f.p, f.q);
        weigh(CENTRE);
        [
          [f.u, f.r, 1],
          [f.v, f.p, level.sx],
          [f.w, f.q, level.sp],
        ].forEach(([target, cells, stride]) => {
          if (region) team.launch('scaleByWeights', level.count, level.context, cells ?? 0, f.z);
          team.launch('addCellsToFaces', level.count, level.context, target ?? 0, stride ?? 1, cells ?? 0);
        });
        break;
      }
    }
  }
}

/** Every cell of the active tiles: its entry, and a place in it, metres. */
function eachOfTiles(
  team: KernelTeam,
  level: Level,
  h: number,
  place: readonly [number, number, number],
  visit: (o: number, x: number, y: number, z: number) => void,
): void {
  const records = team.pointers(level.records, level.count * RECORD_WORDS);
  const { window: w, sx, sp } = level;
  for (let r = 0; r < records.length; r += RECORD_WORDS) {
    const base = records[r] ?? 0;
    const [x, y, z] = [
      (records[r + 1] ?? 0) + w.ox + place[0],
      (records[r + 2] ?? 0) + w.oy + place[1],
      (records[r + 3] ?? 0) + w.oz + place[2],
    ];
    for (let n = 0; n < TILE ** 3; n++) {
      const [i, j, k] = [n & 7, (n >> 3) & 7, n >> 6];
      visit(base + k * sp + j * sx + i, (x + i) * h, (y + j) * h, (z + k) * h);
    }
  }
}

/** Writes the weights of a region into a field, at one place of every cell of the active tiles. */
function weights(
  team: KernelTeam,
  level: Level,
  pointer: number,
  size: number,
  region: Distance | null,
  soft: number,
  h: number,
  place: readonly [number, number, number],
): void {
  const field = team.floats(pointer, size);
  const records = team.pointers(level.records, level.count * RECORD_WORDS);
  const { window: w, sx, sp } = level;
  const edge = TILE * h;
  // Beyond half a tile's diagonal and half the soft edge all of a tile is alike.
  const far = (Math.sqrt(3) / 2) * edge + h + soft / 2;
  for (let r = 0; r < records.length; r += RECORD_WORDS) {
    const base = records[r] ?? 0;
    const [x, y, z] = [
      ((records[r + 1] ?? 0) + w.ox + place[0]) * h,
      ((records[r + 2] ?? 0) + w.oy + place[1]) * h,
      ((records[r + 3] ?? 0) + w.oz + place[2]) * h,
    ];
    const middle = region ? region(x + edge / 2, y + edge / 2, z + edge / 2) : -Infinity;
    if (Math.abs(middle) > far) {
      for (let row = 0; row < 64; row++) {
        const o = base + (row >> 3) * sp + (row & 7) * sx;
        field.fill(middle < 0 ? 1 : 0, o, o + 8);
      }
      continue;
    }
    for (let row = 0; row < 64; row++) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      for (let n = 0; n < 8; n++) {
        field[o + n] = regionWeight(region ? region(x + n * h, y + (row & 7) * h, z + (row >> 3) * h) : -1, soft);
      }
    }
  }
}
