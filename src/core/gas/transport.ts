import { type KernelTeam, WALLS } from '#core/grid';
import { type EdgeVelocities, carryReflected, schemes } from './advection';
import type { Bounds } from './bounds';
import { advectCarried, carriedFields } from './carried';
import type { CutFaces } from './cut-faces';
import type { GasFields } from './fields';
import type { GasOptions } from './options';
import type { MassLedger } from './report';

const LIST_WORDS = 16;
/** A correction that would be larger than this part of the density, in one substep, is not made: something else is wrong. */
const MOST_CORRECTED = 0.2;

/** Carries velocity and matter along, and books what that does to the density. */
export class Transport {
  readonly #list: number;

  constructor(
    private readonly team: KernelTeam,
    private readonly options: GasOptions,
    private readonly bounds: Bounds,
    private readonly fields: GasFields,
    private readonly faces: CutFaces,
    private readonly edges: EdgeVelocities,
    /** Sum of the density over the active tiles. */
    private readonly mass: () => number,
  ) {
    this.#list = team.allocate(LIST_WORDS * 4);
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

  /** `velocityDt`: of the velocity's own way, half a step before a reflection. */
  advect(dt: number, velocityDt: number, ledger: MassLedger, keepsMass: boolean): void {
    const cell = this.options.voxelSize ** 3;
    const { team, fields: f, options } = this;
    const level = this.bounds.hierarchy.finest;
    const context = { team, level, fields: f, c: dt / options.voxelSize, list: this.#list };
    const scheme = schemes(options);
    const before = this.mass();
    const left = this.#bookFluxes(dt, ledger, cell);
    const fire = f.fuel !== 0;
    scheme.scalars.scalars(context, fire ? [f.density, f.temperature, f.fuel] : [f.density, f.temperature]);
    advectCarried(context, scheme.scalars);
    const own = { ...context, c: velocityDt / options.voxelSize };
    this.edges.advect(level, f, own.c);
    scheme.velocity.velocity(own);
    this.edges.store(f, this.bounds.size);
    team.launch('clearOpenCells', level.count, level.context, f.density, 0);
    team.launch('clearOpenCells', level.count, level.context, f.temperature, options.matter.ambient);
    if (fire) {
      team.launch('clearOpenCells', level.count, level.context, f.fuel, 0);
      this.faces.extend(f.fuel, 0);
    }
    for (const field of [f.density, ...carriedFields(f).flat()]) this.faces.extend(field, 0);
    this.faces.extend(f.temperature, options.matter.ambient);
    if (keepsMass) this.#keepMass(before - left / cell);
    ledger.advection += (this.mass() - before) * cell + left;
  }

  /**
   * Scales the density to the sum that it must have after a transport: what was there less what flowed out. All of it by one factor: where the scheme's
   * change happened cannot be told, and a factor keeps edges and what is empty as they are.
   */
  #keepMass(wanted: number): void {
    const level = this.bounds.hierarchy.finest;
    const factor = wanted / this.mass();
    if (factor > 1 - MOST_CORRECTED && factor < 1 + MOST_CORRECTED) {
      for (const field of [this.fields.density, ...carriedFields(this.fields).flat()]) {
        this.team.launch('scaleTiles', level.count, level.context, field, factor);
      }
    }
  }

  /** What the velocity carries out through each open face during the step (upwind). Returns the total. */
  #bookFluxes(dt: number, ledger: MassLedger, cell: number): number {
    const f = this.fields;
    const size = this.bounds.size;
    const density = this.team.floats(f.density, size);
    const velocity = [f.u, f.v, f.w].map((p) => this.team.floats(p, size));
    const { fluxes } = this.bounds.edges;
    const scale = (dt / this.options.voxelSize) * cell;
    let total = 0;
    for (let n = 0; n < fluxes.length; n += 3) {
      const code = fluxes[n + 2] ?? 0;
      const d = density[fluxes[n + 1] ?? 0] ?? 0;
      if (d === 0) continue;
      const v = velocity[code & 3]?.[fluxes[n] ?? 0] ?? 0;
      const out = Math.max(0, code & 4 ? -v : v) * d * scale;
      if (out === 0) continue;
      total += out;
      const wall = WALLS[(code >> 3) - 1];
      if (wall) ledger.walls[wall] += out;
      else ledger.crop += out;
    }
    return total;
  }
}
