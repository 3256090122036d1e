import type { KernelTeam } from '#core/grid';
import type { LiquidGrid } from './grid';

/** Largest velocity that a solve may leave wrong, of the fastest that was there. */
const TOLERANCE = 1e-3;
const MOST_ITERATIONS = 400;
const STRESSES = 6;

export interface ViscosityReport {
  readonly iterations: number;
  readonly converged: boolean;
  /** Largest change of a velocity that the last residual still asks for, m/s. */
  readonly left: number;
}

/** Slows what shears: one implicit step, by conjugate gradients with the diagonal as preconditioner (src/kernels/assembly/liquid-stress.ts). */
export class Viscosity {
  readonly #stress: number;
  readonly #lists: number;
  readonly #own: readonly number[];
  readonly #sums: number;

  constructor(
    private readonly team: KernelTeam,
    private readonly grid: LiquidGrid,
    capacity: number,
    tileCapacity: number,
  ) {
    this.#own = Array.from({ length: STRESSES + 6 }, () => team.allocate(capacity * 4));
    this.#stress = team.allocate(STRESSES * 4);
    this.#lists = team.allocate(64 * 4);
    this.#sums = team.allocate(tileCapacity * 16);
    team.words(this.#stress, STRESSES).set(this.#own.slice(0, STRESSES));
  }

  /** `walls` sets the faces that moving walls close, before they are taken as given. Scratch used: ex ey ez, p q r, y z best. */
  solve(dt: number, h: number, fastest: number, walls: () => void): ViscosityReport {
    const { team, grid } = this;
    const f = grid.fields;
    const { slots, context } = grid;
    const scale = dt / (h * h);
    const list = (n: number, pointers: readonly number[]): number => {
      const at = this.#lists + 16 * n;
      team.words(at, 3).set(pointers);
      return at;
    };
    const x = list(0, [f.u, f.v, f.w]);
    const inverse = list(1, this.#own.slice(STRESSES, STRESSES + 3));
    const applied = list(2, this.#own.slice(STRESSES + 3));
    const r = list(3, [f.ex, f.ey, f.ez]);
    const p = list(4, [f.p, f.q, f.r]);
    const before = list(5, [f.y, f.z, f.best]);
    team.launch('viscosityOfCells', slots, context, f.thick, f.amount);
    team.launch('prepareViscosity', slots, context, f.thick, x, inverse, scale);
    walls();
    [
      [f.u, f.y],
      [f.v, f.z],
      [f.w, f.best],
    ].forEach(([from, to]) => {
      team.launch('copyTiles', slots, context, from ?? 0, to ?? 0);
    });
    const apply = (of: number): number => {
      team.launch('viscousStress', slots, context, f.thick, of, this.#stress);
      team.launch('viscousApply', slots, context, of, this.#stress, inverse, applied, scale, this.#sums);
      return this.#total().sum;
    };
    apply(x);
    team.launch('viscousStart', slots, context, before, applied, inverse, r, p, this.#sums);
    let { sum: rz, largest } = this.#total();
    const allowed = Math.max(TOLERANCE * fastest, 1e-9);
    let iterations = 0;
    while (largest > allowed && iterations < MOST_ITERATIONS && rz > 0) {
      const pq = apply(p);
      if (!(pq > 0)) break;
      team.launch('viscousAdvance', slots, context, x, p, r, applied, inverse, rz / pq, this.#sums);
      const next = this.#total();
      team.launch('viscousDirection', slots, context, r, p, inverse, next.sum / rz);
      ({ sum: rz, largest } = next);
      iterations++;
    }
    for (const name of ['y', 'z', 'best', 'p', 'q', 'r'] as const) team.launch('fillTiles', slots, context, f[name], 0);
    return { iterations, converged: largest <= allowed, left: largest };
  }

  #total(): { sum: number; largest: number } {
    const { slots } = this.grid;
    const doubles = this.team.doubles(this.#sums, slots * 2);
    const floats = this.team.floats(this.#sums, slots * 4);
    let [sum, largest] = [0, 0];
    for (let s = 0; s < slots; s++) {
      sum += doubles[2 * s] ?? 0;
      largest = Math.max(largest, floats[4 * s + 2] ?? 0);
    }
    return { sum, largest };
  }
}
