import { type EdgeVelocities, carryReflected, ADVECTION, type AdvectionScheme, type Bounds, Carrying, type CutFaces } from '#core/flow';
import { type KernelTeam, WALLS } from '#core/grid';
import { advectCarried, carriedFields } from './carried';
import { type GasFields } from './fields';
import { type Fire, type GasOptions } from './options';
import type { Amounts, Ledgers } from './report';
import { settleAround } from './settle';

const LIST_WORDS = 16;
/** A correction that would be larger than this part of the density, in one substep, is not made: something else is wrong. */
const MOST_CORRECTED = 0.2;
/** Of a cell's volume, that an expansion leaves in it at least; as in carry.ts of the kernels. */
const LEAST_LEFT = 0.1;

/** Carries velocity and matter along, and records what that does to the density. */
export class Transport {
  /** What moving solids did to the amounts since the last transport; null: none moves. */
  swept: Amounts | null = null;
  readonly #list: number;
  readonly #partial: number;
  /** null: the scheme moves concentrations. */
  readonly #carrying: Carrying | null;

  constructor(
    private readonly team: KernelTeam,
    private readonly options: GasOptions,
    private readonly bounds: Bounds<GasFields>,
    private readonly fields: GasFields,
    private readonly faces: CutFaces,
    private readonly edges: EdgeVelocities,
    /** Over the active tiles. */
    private readonly sums: () => Amounts,
    tileCapacity: number,
  ) {
    this.#list = team.allocate(LIST_WORDS * 4);
    this.#carrying =
      options.matter.scalarAdvection === 'ppm'
        ? new Carrying(team, { voxelSize: options.voxelSize, limit: options.bounds.limit }, bounds, fields, tileCapacity)
        : null;
    this.#partial = team.allocate(tileCapacity * 8);
  }

  /**
   * Reflects the velocity about what the projection in the middle of the step left of it (the projection takes energy, the reflection gives it back:
   * Zehnder, Narain, Thomaszewski 2018), and carries it through the second half.
   */
  reflect(dt: number): void {
    const { team, fields: f, options } = this;
    const level = this.bounds.hierarchy.finest;
    const { size } = this.bounds;
    const reflected = [f.p, f.q, f.r] as const;
    const whole = [f.u, f.v, f.w].map((from, axis) => {
      // With what lies outside of the active tiles: traces reach there.
      const copy = team.floats(reflected[axis] ?? 0, size);
      copy.set(team.floats(from, size));
      return copy;
    });
    const field = { ...f, u: f.p, v: f.q, w: f.r };
    team.launch('subtractGradient', level.count, level.context, ...reflected, f.phi);
    this.edges.subtractGradient(level, field);
    this.faces.close(field);
    const c = dt / 2 / options.voxelSize;
    this.edges.advect(level, field, c);
    carryReflected({ team, level, fields: f, c, list: this.#list }, reflected);
    this.edges.store(f, size);
    for (const copy of whole) copy.fill(0);
  }

  /** To be called whenever the bounds changed. */
  boundsChanged(): void {
    this.#carrying?.boundsChanged();
  }

  /** `velocityDt`: of the velocity's own way, half a step before a reflection. */
  advect(dt: number, velocityDt: number, ledgers: Ledgers, { keepsMass, fire }: GasOptions['matter']): void {
    const cell = this.options.voxelSize ** 3;
    const { team, fields: f, options } = this;
    const level = this.bounds.hierarchy.finest;
    const context = { team, level, fields: f, c: dt / options.voxelSize, list: this.#list };
    const { velocity, scalars } = schemes(options);
    const before = this.sums();
    const burns = f.fuel !== 0;
    let left: Amounts;
    if (this.#carrying) {
      left = this.#carry(this.#carrying, dt, ledgers, fire);
    } else {
      left = this.#recordFluxes(dt, ledgers);
      scalars?.scalars(context, burns ? [f.density, f.temperature, f.fuel] : [f.density, f.temperature]);
      if (scalars) advectCarried(context, scalars);
      team.launch('clearOpenCells', level.count, level.context, f.density, 0);
      team.launch('clearOpenCells', level.count, level.context, f.temperature, options.matter.ambient);
      if (burns) team.launch('clearOpenCells', level.count, level.context, f.fuel, 0);
    }
    const own = { ...context, c: velocityDt / options.voxelSize };
    this.edges.advect(level, f, own.c);
    velocity.velocity(own);
    this.edges.store(f, this.bounds.size);
    for (const field of [f.density, ...(burns ? [f.fuel] : []), ...carriedFields(f).flat()]) this.faces.extend(field, 0);
    this.faces.extend(f.temperature, options.matter.ambient);
    if (keepsMass && scalars) this.#keepMass(before.mass - left.mass / cell);
    const after = this.sums();
    ledgers.mass.advection += (after.mass - before.mass) * cell + left.mass;
    ledgers.heat.advection += (after.heat - before.heat) * cell + left.heat;
  }

  /** Carries what there is as amounts; returns what left in the sense of the ledgers: out of the tiles, or into what has a line of its own. */
  #carry(carrying: Carrying, dt: number, ledgers: Ledgers, fire: Fire | null): Amounts {
    const { team, fields: f, options } = this;
    const { voxelSize: h } = options;
    const { ambient } = options.matter;
    const cell = h ** 3;
    const level = this.bounds.hierarchy.finest;
    const amounts = [...(f.fuel === 0 ? [] : [f.fuel]), ...carriedFields(f).flat()].map((field) => ({ field, nothing: 0 }));
    const gone = carrying.run(dt / h, [{ field: f.density, nothing: 0 }, { field: f.temperature, nothing: ambient }, ...amounts]);
    const left = { mass: 0, heat: 0 };
    (['mass', 'heat'] as const).forEach((name, n) => {
      const ledger = ledgers[name];
      const { walls, crop } = gone[n as 0 | 1];
      ledger.crop += crop * cell;
      left[name] += crop * cell;
      WALLS.forEach((wall, side) => {
        const out = (walls[side] ?? 0) * cell;
        ledger.walls[wall] += out;
        left[name] += out;
      });
    });
    if (fire && fire.expansion > 0) {
      team.launch(
        'expandHeat',
        level.count,
        level.context,
        f.temperature,
        f.flame,
        ambient,
        fire.expansion * dt,
        LEAST_LEFT,
        this.#partial,
      );
      let grown = 0;
      for (const part of team.doubles(this.#partial, level.count)) grown += part;
      ledgers.heat.expansion += grown * cell;
      left.heat -= grown * cell;
    }
    if (this.swept) {
      const made = settleAround(team, this.bounds, f, this.swept, ambient);
      for (const name of ['mass', 'heat'] as const) {
        ledgers[name].solids -= made[name] * cell;
        left[name] -= made[name] * cell;
      }
      this.swept = null;
    }
    carrying.done();
    return left;
  }

  /**
   * Scales the density to the sum that it must have after a transport: what was there less what flowed out. All of it by one factor: where the scheme's
   * change happened cannot be told, and a factor keeps edges and what is empty as they are.
   */
  #keepMass(wanted: number): void {
    const level = this.bounds.hierarchy.finest;
    const factor = wanted / this.sums().mass;
    if (factor > 1 - MOST_CORRECTED && factor < 1 + MOST_CORRECTED) {
      for (const field of [this.fields.density, ...carriedFields(this.fields).flat()]) {
        this.team.launch('scaleTiles', level.count, level.context, field, factor);
      }
    }
  }

  /** What the velocity carries out through each open face during the step (upwind). Returns the totals. */
  #recordFluxes(dt: number, ledgers: Ledgers): Amounts {
    const f = this.fields;
    const size = this.bounds.size;
    const { ambient } = this.options.matter;
    const density = this.team.floats(f.density, size);
    const temperature = this.team.floats(f.temperature, size);
    const velocity = [f.u, f.v, f.w].map((p) => this.team.floats(p, size));
    const { fluxes } = this.bounds.edges;
    const scale = dt * this.options.voxelSize ** 2;
    const total = { mass: 0, heat: 0 };
    for (let n = 0; n < fluxes.length; n += 3) {
      const code = fluxes[n + 2] ?? 0;
      const at = fluxes[n + 1] ?? 0;
      const d = density[at] ?? 0;
      const t = (temperature[at] ?? 0) - ambient;
      if (d === 0 && t === 0) continue;
      const v = velocity[code & 3]?.[fluxes[n] ?? 0] ?? 0;
      const out = Math.max(0, code & 4 ? -v : v) * scale;
      if (out === 0) continue;
      total.mass += out * d;
      total.heat += out * t;
      const wall = WALLS[(code >> 3) - 1];
      for (const [ledger, amount] of [
        [ledgers.mass, out * d],
        [ledgers.heat, out * t],
      ] as const) {
        if (wall) ledger.walls[wall] += amount;
        else ledger.crop += amount;
      }
    }
    return total;
  }
}

const schemes = (options: GasOptions): { velocity: AdvectionScheme; scalars: AdvectionScheme | null } => ({
  // The halves of a reflection are monotone cubic.
  velocity: ADVECTION[options.matter.velocityAdvection === 'reflection' ? 'cubic' : options.matter.velocityAdvection],
  /** null: matter is carried as amounts. */
  scalars: options.matter.scalarAdvection === 'ppm' ? null : ADVECTION[options.matter.scalarAdvection],
});
