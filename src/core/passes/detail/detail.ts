import { RuddleError } from '#core/errors';
import { ADVECTION, Bounds, Motion, capacityFor, limitWindow, namingFrame } from '#core/flow';
import type { FormMaker } from '#core/geometry';
import { type KernelTeam, RECORD_WORDS, TILE } from '#core/grid';
import type { DetailBody } from './body';
import { Eddies } from './eddies';
import { type DetailFields, allocateDetail, fieldCount } from './fields';
import { changeTo } from './hold';
import {
  type Amount,
  type BasePart,
  type CarriedAmount,
  type Lattice,
  type Moved,
  type Spectra,
  LatticeFrame,
  Room,
  amountsOf,
  fillChannel,
  fineStrength,
  latticeAround,
  loadAmounts,
  matterBoxes,
  movedFrom,
  nearMatter,
  pointsOf,
  relaid,
  spectraOf,
} from '../upscale';
import { Places } from './places';
import { type DetailState, readState, writeState } from './state';
import { whereOf } from './where';

/** Fine voxels that the fastest matter may cross in a substep: semi-Lagrangian, stable at any. */
const CFL = 4;
const MOST_SUBSTEPS = 32;

/** What a frame of the fine grid came to. */
export interface DetailCounts {
  readonly substeps: number;
  readonly activeVoxels: number;
  readonly baseVoxels: number;
  /** Density x m^3. */
  readonly mass: number;
  readonly baseMass: number;
  /** Relative L2 of the density's means over base voxels against the base, before they were held to it. */
  readonly apart: number;
  /** Fastest that is added, m/s, and its root mean square where it is added; the same of the base. */
  readonly added: number;
  readonly baseSpeed: number;
  /** How far the matter lies from the base's in the end, seen at its voxels; null: one of the two has none. */
  readonly moved: Moved | null;
  readonly spectra: Spectra | null;
  /** Voxels of the base across the shortest side of its matter. */
  readonly across: number;
  /** Largest of the layers' mean stretches, and the frames after which a layer was last renewed (null: not yet). */
  readonly stretch: number;
  readonly life: number | null;
}

/** A cached gas at a finer voxel size: its matter carried by its own velocity and by added eddies. */
export class Detail {
  readonly #motion: Motion;
  readonly #per: number;
  readonly #within: Lattice;
  readonly #places: Places;
  readonly #frame: LatticeFrame;
  readonly #eddies: Eddies;
  readonly #now: Room;
  readonly #means: Room;
  readonly #change: Room;
  /** Room for the records of three scalars that are carried together. */
  readonly #list: number;
  #bounds: Bounds<DetailFields> | null = null;
  #fields: DetailFields | null = null;
  #amounts: CarriedAmount[] = [];
  #lattice: Lattice | null = null;
  /** Velocity of the frame that was reached, 4 floats a point, and where its matter was. */
  #velocity = new Float32Array(0);
  #boxes: number[] = [];
  #wind: readonly [number, number, number] = [0, 0, 0];
  #steps = 0;
  #renewedAt: number | null = null;
  #life: number | null = null;

  constructor(
    private readonly body: DetailBody,
    private readonly team: KernelTeam,
    forms: FormMaker,
    private readonly from: Uint8Array | null,
  ) {
    const { flow, base, settings } = body;
    this.#motion = new Motion(flow, forms);
    this.#per = base / flow.voxelSize;
    const w = limitWindow({ voxelSize: base, bounds: flow.bounds });
    this.#within = { low: [w.ox, w.oy, w.oz], size: [w.nx, w.ny, w.nz] };
    this.#places = new Places(team, settings.seed);
    this.#frame = new LatticeFrame(team, this.#per);
    [this.#now, this.#means, this.#change] = [new Room(team), new Room(team), new Room(team)];
    this.#eddies = new Eddies(team, body, this.#per);
    this.#list = team.allocate(36);
  }

  /** The first frame: the base's matter, finer. */
  begin(parts: readonly BasePart[], frame: number): DetailCounts {
    const base = this.#load(parts);
    this.#start(base.boxes, frame);
    this.#places.begin(this.#lattice as Lattice, null, null);
    return this.#finish(base, frame, 0, 0, 1);
  }

  /** What the next frame begins with, after a state: the base at the frame of the state. */
  goOn(parts: readonly BasePart[], frame: number): void {
    const base = this.#load(parts);
    const state = readState(this.from ?? new Uint8Array(0));
    this.#wind = base.wind;
    this.#prepare();
    const bounds = this.#bounds as Bounds<DetailFields>;
    bounds.restore(state.window, state.tiles, this.#motion.solids(...this.#moment(frame)));
    this.#fill(state);
    this.#places.begin(state.lattice, state.phases, state.layers);
    [this.#steps, this.#renewedAt, this.#life] = [state.steps, state.renewedAt, state.life];
  }

  /** From the frame before to `frame`. */
  step(parts: readonly BasePart[], frame: number): DetailCounts {
    const { body } = this;
    const before = { lattice: this.#lattice as Lattice, velocity: this.#velocity, boxes: this.#boxes };
    const base = this.#load(parts);
    const lattice = this.#lattice as Lattice;
    const points = pointsOf(lattice);
    const old = relaid(before.velocity, before.lattice, lattice, 4, [...base.wind, 0]);
    const bounds = this.#bounds as Bounds<DetailFields>;
    bounds.setWind([...base.wind]);
    this.#wind = base.wind;
    const moving = this.#motion.solids(...this.#moment(frame));
    const census = { matter: [...before.boxes, ...base.boxes], motion: [], solids: this.#solidBoxes(frame), travel: 0 };
    namingFrame(frame, () => bounds.follow(census, moving));
    this.#frame.describe(lattice, bounds);
    const now = this.#now.floats(4 * points);
    for (let n = 0; n < now.length; n++) now[n] = 0.5 * ((old[n] as number) + (this.#velocity[n] as number));
    this.#places.carry(lattice, this.#frame.frame, this.#now.at, base.fastest, 1 / body.base, body.frameSeconds);
    const renewed = this.#places.phases.renewed.join();
    const stretch = this.#places.age(base.strength, body.settings.stretch, body.frameSeconds, body.settings.change);
    this.#steps++;
    if (this.#places.phases.renewed.join() !== renewed) {
      if (this.#renewedAt !== null) this.#life = 2 * (this.#steps - this.#renewedAt);
      this.#renewedAt = this.#steps;
    }
    const added = this.#eddies.potential(base.weights, this.#places, lattice, this.#frame, bounds, this.#fields as DetailFields);
    const crossed = ((base.fastest + added) * body.frameSeconds) / body.flow.voxelSize;
    const substeps = Math.max(1, Math.min(MOST_SUBSTEPS, Math.ceil(crossed / CFL)));
    for (let s = 0; s < substeps; s++) {
      const share = (s + 0.5) / substeps;
      for (let n = 0; n < now.length; n++) now[n] = (old[n] as number) + share * ((this.#velocity[n] as number) - (old[n] as number));
      this.#faces();
      this.#carry(body.frameSeconds / substeps);
    }
    return this.#finish(base, frame, substeps, added, stretch);
  }

  state(frame: number): Uint8Array<ArrayBuffer> {
    const bounds = this.#bounds as Bounds<DetailFields>;
    const { lattice, layers } = this.#places.kept;
    return writeState({
      frame,
      window: bounds.window,
      tiles: bounds.active.tiles,
      lattice,
      layers,
      phases: this.#places.phases,
      steps: this.#steps,
      renewedAt: this.#renewedAt,
      life: this.#life,
      values: this.#amounts.map((a) => this.#tileValues(a.name)),
    });
  }

  /** For collecting channels, and for tests. */
  get grid(): { readonly bounds: Bounds<DetailFields>; readonly fields: DetailFields; readonly amounts: readonly CarriedAmount[] } {
    return { bounds: this.#bounds as Bounds<DetailFields>, fields: this.#fields as DetailFields, amounts: this.#amounts };
  }

  /** Seconds of the computation at which the step to a frame begins, and its length. */
  #moment(frame: number): [number, number] {
    const { flow, frameSeconds } = this.body;
    const end = (frame - flow.firstFrame) / flow.framesPerSecond;
    return [end - frameSeconds, frameSeconds];
  }

  #solidBoxes(frame: number): number[] {
    const h = this.body.flow.voxelSize;
    const [time, dt] = this.#moment(frame);
    return this.#motion
      .solidBoxes(time + dt)
      .flatMap(({ min, max }) => [...min.map((v) => Math.floor(v / h)), ...max.map((v) => Math.ceil(v / h) - 1)]);
  }

  /** A frame of the base over its lattice; velocities of the frame before are the caller's to keep. */
  #load(parts: readonly BasePart[]): Loaded {
    const { body } = this;
    if (this.#amounts.length === 0) this.#amounts = amountsOf(parts, body.channels);
    const lattice = latticeAround(parts, body.base, this.#within);
    const points = pointsOf(lattice);
    const three = new Float32Array(3 * points);
    fillChannel(three, lattice, parts, 'vel', body.base);
    const velocity = new Float32Array(4 * points);
    let fastest = 0;
    for (let n = 0; n < points; n++) {
      for (let c = 0; c < 3; c++) {
        const v = three[3 * n + c] as number;
        velocity[4 * n + c] = v;
        if (Math.abs(v) > fastest) fastest = Math.abs(v);
      }
    }
    const amounts = loadAmounts(this.#amounts, lattice, parts, body.base);
    const density = amounts[0] as Float32Array;
    const strength = fineStrength(velocity, lattice);
    const wind = parts.flatMap((p) => p.grids).find((g) => g.name === 'vel')?.background ?? [0, 0, 0];
    const channel = (name: string): Float32Array | null => {
      const n = this.#amounts.findIndex((a) => a.channel === name);
      return n < 0 ? null : (amounts[n] ?? null);
    };
    const weights = whereOf(body, lattice, strength, density, channel);
    const own = amounts.filter((_a, n) => !(this.#amounts[n] as CarriedAmount).rides);
    const boxes = matterBoxes(own, lattice, this.#per);
    const near = nearMatter(own, lattice);
    for (let n = 0; n < points; n++) weights[n] = (weights[n] as number) * (near[n] as number);
    [this.#lattice, this.#velocity, this.#boxes] = [lattice, velocity, boxes];
    let baseVoxels = 0;
    for (const v of density) if (v > 0) baseVoxels++;
    return {
      amounts,
      strength,
      weights,
      boxes,
      fastest,
      baseVoxels,
      wind: [wind[0] ?? 0, wind[1] ?? 0, wind[2] ?? 0],
    };
  }

  /** Fields and bounds, once it is known what there is. Throws `arena-too-small`. */
  #prepare(): void {
    if (this.#bounds) return;
    const { team, body } = this;
    const count = fieldCount(this.#amounts.length);
    const capacity = capacityFor(limitWindow(body.flow), team.available(), count);
    const { fields, contents } = allocateDetail(team, capacity, this.#amounts);
    this.#fields = fields;
    this.#bounds = new Bounds<DetailFields>(team, body.flow, fields, contents, capacity, this.#motion.stillSolids());
    this.#bounds.wind = [...this.#wind];
  }

  #start(boxes: readonly number[], frame: number): void {
    this.#prepare();
    const census = { matter: [...boxes], motion: [], solids: this.#solidBoxes(frame), travel: 0 };
    const moving = this.#motion.solids(...this.#moment(frame));
    namingFrame(frame, () => {
      (this.#bounds as Bounds<DetailFields>).start(census, moving);
    });
    this.#frame.describe(this.#lattice as Lattice, this.#bounds as Bounds<DetailFields>);
  }

  #faces(): void {
    const f = this.#fields as DetailFields;
    const level = (this.#bounds as Bounds<DetailFields>).hierarchy.finest;
    this.team.launch('carriedFaces', level.count, level.context, this.#frame.frame, this.#now.at, f.phi, f.p, f.e, f.u, f.v, f.w);
  }

  #carry(dt: number): void {
    const { team, body } = this;
    const fields = this.#fields as DetailFields;
    const level = (this.#bounds as Bounds<DetailFields>).hierarchy.finest;
    const context = { team, level, fields, c: dt / body.flow.voxelSize, list: this.#list };
    for (let n = 0; n < this.#amounts.length; n += 3) {
      ADVECTION.maccormack.scalars(
        context,
        this.#amounts.slice(n, n + 3).map((a) => fields[a.name]),
      );
    }
  }

  /** Means over base voxels of two amounts; the second may be the first again. */
  #average(a: CarriedAmount, b: CarriedAmount): Float32Array {
    const { team } = this;
    const f = this.#fields as DetailFields;
    const lattice = this.#lattice as Lattice;
    const bounds = this.#bounds as Bounds<DetailFields>;
    const means = this.#means.floats(4 * pointsOf(lattice));
    const [, ny, nz] = lattice.size;
    const { context } = bounds.hierarchy.finest;
    const args = [...this.#frame.averaging(lattice, bounds), f[a.name], a.nothing, f[b.name], b.nothing, this.#means.at];
    team.launch('averageOver', ny * nz, context, ...args);
    return means;
  }

  /** Holds all amounts to the base, and says what the frame came to. */
  #finish(base: Loaded, frame: number, substeps: number, added: number, stretch: number): DetailCounts {
    const { team, body } = this;
    const f = this.#fields as DetailFields;
    const bounds = this.#bounds as Bounds<DetailFields>;
    const level = bounds.hierarchy.finest;
    const points = pointsOf(this.#lattice as Lattice);
    const change = this.#change.floats(4 * points);
    const part = substeps === 0 ? 1 : 1 - Math.exp(-body.frameSeconds / body.settings.hold);
    let [mass, baseMass, off, norm] = [0, 0, 0, 0];
    for (let n = 0; n < this.#amounts.length; n += 2) {
      const a = this.#amounts[n] as CarriedAmount;
      const b = this.#amounts[n + 1] ?? a;
      const means = this.#average(a, b);
      if (n === 0) {
        const density = base.amounts[0] as Float32Array;
        for (let p = 0; p < points; p++) {
          const [d, m] = [density[p] as number, means[4 * p] as number];
          off += (m - d) ** 2;
          norm += d * d;
          baseMass += d;
        }
      }
      changeTo(base.amounts[n] as Float32Array, means, 0, part, change, 0);
      changeTo((base.amounts[n + 1] ?? base.amounts[n]) as Float32Array, means, 1, part, change, 2);
      team.launch('holdCells', level.count, level.context, this.#frame.frame, this.#change.at, f[a.name], a.nothing, f[b.name], b.nothing);
    }
    const lattice = this.#lattice as Lattice;
    const first = this.#amounts[0] as CarriedAmount;
    const own = base.amounts[0] as Float32Array;
    const moved = movedFrom(own, this.#average(first, first), lattice, body.base);
    // Before anything was carried there are no faces yet.
    const spectra = substeps === 0 ? null : spectraOf(this.#velocity, lattice, own, body.base, this.#per, team, bounds, f);
    const density = team.floats(f[(this.#amounts[0] as CarriedAmount).name], bounds.size);
    const records = team.pointers(level.records, level.count * RECORD_WORDS);
    for (let t = 0; t < level.count; t++) {
      const first = records[t * RECORD_WORDS] as number;
      for (let row = 0; row < 64; row++) {
        const o = first + (row >> 3) * level.sp + (row & 7) * level.sx;
        for (let i = 0; i < TILE; i++) mass += density[o + i] as number;
      }
    }
    if (!Number.isFinite(mass))
      throw new RuddleError('not-finite', `The density became unstable (NaN or infinite) at frame ${String(frame)}. Try less strength.`, {
        frame,
        substep: substeps,
        channel: 'density',
      });
    return {
      substeps,
      activeVoxels: level.count * 512,
      baseVoxels: base.baseVoxels,
      mass: mass * body.flow.voxelSize ** 3,
      baseMass: baseMass * body.base ** 3,
      apart: norm > 0 ? Math.sqrt(off / norm) : 0,
      moved,
      spectra,
      across: acrossOf(own, lattice),
      added,
      baseSpeed: base.fastest,
      stretch,
      life: this.#life,
    };
  }

  #tileValues(name: Amount): Float32Array {
    const values = new Float32Array(this.#activeTiles() * 512);
    this.#eachRow(name, (row, n) => values.set(row, n));
    return values;
  }

  #fill({ values }: DetailState): void {
    this.#amounts.forEach((a, n) => {
      const from = values[n] as Float32Array;
      if (from.length !== this.#activeTiles() * 512)
        throw new RuddleError('file-invalid', "A run's state cannot be used: it is of other tiles.", { file: 'state', reason: 'tiles' });
      this.#eachRow(a.name, (row, o) => row.set(from.subarray(o, o + TILE)));
    });
  }

  #activeTiles(): number {
    return (this.#bounds as Bounds<DetailFields>).hierarchy.finest.count;
  }

  #eachRow(name: Amount, visit: (row: Float32Array, at: number) => void): void {
    const { team } = this;
    const bounds = this.#bounds as Bounds<DetailFields>;
    const level = bounds.hierarchy.finest;
    const field = team.floats((this.#fields as DetailFields)[name], bounds.size);
    const records = team.pointers(level.records, level.count * RECORD_WORDS);
    for (let t = 0; t < level.count; t++) {
      const first = records[t * RECORD_WORDS] as number;
      for (let row = 0; row < 64; row++) {
        const o = first + (row >> 3) * level.sp + (row & 7) * level.sx;
        visit(field.subarray(o, o + TILE), t * 512 + row * TILE);
      }
    }
  }
}

/** Voxels across the shortest side of the box around the matter. */
function acrossOf(density: Float32Array, { size: [nx, ny] }: Lattice): number {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  density.forEach((d, n) => {
    if (d < 0.02) return;
    [n % nx, Math.floor(n / nx) % ny, Math.floor(n / nx / ny)].forEach((v, a) => {
      low[a] = Math.min(low[a] ?? 0, v);
      high[a] = Math.max(high[a] ?? 0, v);
    });
  });
  return Math.max(0, Math.min(...high.map((v, a) => v - (low[a] ?? 0) + 1)));
}

interface Loaded {
  /** Of what is carried, above what it holds where nothing is; what rides on the density as amounts. */
  readonly amounts: readonly Float32Array[];
  readonly strength: Float32Array;
  readonly weights: Float32Array;
  readonly boxes: number[];
  readonly fastest: number;
  readonly baseVoxels: number;
  readonly wind: readonly [number, number, number];
}
