import type { Hierarchy, Level } from './hierarchy';
import { removeMeans, type Pocket } from './pockets';
import type { KernelTeam } from './team';

export interface PressureLimits {
  /** Largest true relative residual, L2 against the right-hand side. */
  readonly tolerance: number;
  readonly iterations: number;
  /** Largest |divergence| x dt that may be left anywhere. */
  readonly divergence: number;
  /** dt / h, to turn a flux residual (metres a second) into |divergence| x dt. */
  readonly dtOverH: number;
}

export interface PressureReport {
  readonly converged: boolean;
  readonly iterations: number;
  /** True residual |b - A x| / |b|, recomputed at the end. */
  readonly relativeResidual: number;
  /** Largest |divergence| x dt left. */
  readonly divergence: number;
}

export interface PressureArrays {
  readonly x: number;
  readonly b: number;
  readonly r: number;
  readonly z: number;
  readonly p: number;
  readonly q: number;
  /** Room for the best solution so far. */
  readonly best: number;
}

/** Red-black sweeps before and after the coarse correction. */
const SWEEPS = 2;
/** Float64 a tile that the kernels write. */
const WORDS = 4;
/** Symmetric sweeps on the coarsest level. */
const COARSEST_SWEEPS = 12;

/**
 * Conjugate gradients preconditioned by one geometric multigrid V-cycle (McAdams, Sifakis, Teran 2010): red-black Gauss-Seidel in
 * reversed order on the way up, so that the preconditioner is symmetric; piecewise constant transfers with the coarse operator
 * rediscretised, which amounts to over-correction by 2 (see docs/methods/pressure.md for what was measured). Sums are f64 a tile, added in a fixed order, so the number of threads
 * does not change a bit. Within a solve rows are paired (see the kernels). The recursive f32 residual is optimistic: the true one is computed before stopping.
 */
export class PressureSolver {
  readonly #partial: number;

  constructor(
    private readonly team: KernelTeam,
    private readonly hierarchy: Hierarchy,
    tiles: number,
  ) {
    this.#partial = team.allocate(tiles * 32);
  }

  solve(
    a: PressureArrays,
    limits: PressureLimits,
    pockets: readonly Pocket[] = [],
    cancelled: () => boolean = () => false,
  ): PressureReport {
    const { team, hierarchy } = this;
    const level = hierarchy.finest;
    const n = level.count;
    const ctx = level.context;
    team.launch('pairRows', n, ctx, a.b);
    // Where one pocket is all there is, as in a closed box, its mean is a matter for the kernels.
    const all = pockets.length === 1 ? this.#unknowns(a.z, n) === pockets[0]?.cells.length : false;
    const balance = (field: number): void => {
      if (all) {
        team.launch('tileSum', n, ctx, field, this.#partial);
        team.launch('addToUnknowns', n, ctx, field, -this.#sum(n) / (pockets[0]?.cells.length ?? 1));
      } else if (pockets.length > 0) removeMeans(team.floats(field, (level.window.nz + 2) * level.sp), pockets);
    };
    balance(a.b);
    team.launch('dot', n, ctx, a.b, a.b, this.#partial);
    const scale = Math.sqrt(this.#sum(n));
    if (scale === 0 || n === 0) {
      team.launch('fillTiles', n, ctx, a.x, 0);
      team.launch('unpairRows', n, ctx, a.b);
      return { converged: true, iterations: 0, relativeResidual: 0, divergence: 0 };
    }
    team.launch('pairRows', n, ctx, a.x);
    const evaluate = (): { relativeResidual: number; divergence: number } => this.#trueResidual(a, n, scale, limits.dtOverH);
    let state = evaluate();
    const met = (): boolean => state.relativeResidual <= limits.tolerance && state.divergence <= limits.divergence;
    let iterations = 0;
    let rz = 0;
    while (!met() && iterations < limits.iterations && !cancelled() && Number.isFinite(state.relativeResidual)) {
      if (rz === 0) {
        // A (re)start: rounding has given the residual a mean that a closed pocket's singular system cannot take away.
        balance(a.r);
        team.launch('copyTiles', n, ctx, a.x, a.best);
        team.launch('fillTiles', n, ctx, a.p, 0);
      }
      this.#cycle(0, a.z, a.r);
      team.launch('dot', n, ctx, a.r, a.z, this.#partial);
      const next = this.#sum(n);
      team.launch('advanceDirection', n, ctx, a.p, a.z, rz === 0 ? 0 : next / rz);
      rz = next;
      team.launch('applyPoisson', n, ctx, a.p, a.q, this.#partial);
      const pq = this.#sum(n);
      if (!(pq > 0)) break;
      team.launch('advanceSolution', n, ctx, a.x, a.p, a.r, a.q, rz / pq, this.#partial);
      iterations++;
      const recursive = Math.sqrt(this.#sum(n)) / scale;
      if (recursive <= limits.tolerance || !(recursive < 1e6)) {
        const before = state.relativeResidual;
        state = evaluate();
        rz = 0;
        if (met()) break;
        // float32 cannot do better than its rounding: stop when a restart no longer helps, with the better of the two.
        if (!(state.relativeResidual < 0.5 * before)) {
          if (!(state.relativeResidual < before)) {
            team.launch('copyTiles', n, ctx, a.best, a.x);
            state = evaluate();
          }
          break;
        }
      }
    }
    if (rz !== 0) state = evaluate();
    team.launch('unpairRows', n, ctx, a.x);
    team.launch('unpairRows', n, ctx, a.b);
    return { converged: met(), iterations, ...state };
  }

  /** Cells that are unknown; in an array that holds nothing yet. */
  #unknowns(scratch: number, n: number): number {
    const ctx = this.hierarchy.finest.context;
    this.team.launch('fillTiles', n, ctx, scratch, 0);
    this.team.launch('addToUnknowns', n, ctx, scratch, 1);
    this.team.launch('tileSum', n, ctx, scratch, this.#partial);
    return this.#sum(n);
  }

  #trueResidual(a: PressureArrays, n: number, scale: number, dtOverH: number): { relativeResidual: number; divergence: number } {
    this.team.launch('residual', n, this.hierarchy.finest.context, a.x, a.b, a.r, this.#partial);
    const view = this.team.doubles(this.#partial, WORDS * n);
    let largest = 0;
    for (let t = 1; t < view.length; t += WORDS) largest = Math.max(largest, view[t] ?? 0);
    return { relativeResidual: Math.sqrt(this.#sum(n)) / scale, divergence: largest * dtOverH };
  }

  #sum(n: number): number {
    const view = this.team.doubles(this.#partial, n * WORDS);
    let sum = 0;
    for (let t = 0; t < view.length; t += WORDS) sum += view[t] ?? 0;
    return sum;
  }

  /** x = one V-cycle on A x = b from zero. */
  #cycle(l: number, x: number, b: number): void {
    const { team } = this;
    const levels = this.hierarchy.levels;
    const level = levels[l] as Level;
    const n = level.count;
    const ctx = level.context;
    const coarse = levels[l + 1];
    const sweeps = coarse ? SWEEPS : COARSEST_SWEEPS;
    for (let s = 0; s < sweeps; s++) {
      if (s === 0) team.launch('smoothFirst', n, ctx, x, b);
      else team.launch('smooth', n, ctx, x, b, 0);
      team.launch('smooth', n, ctx, x, b, 1);
    }
    if (coarse) {
      team.launch('fillTiles', coarse.count, coarse.context, coarse.b, 0);
      team.launch('restrictResidual', n, ctx, x, b, coarse.sx, coarse.sp, coarse.b);
      this.#cycle(l + 1, coarse.x, coarse.b);
      team.launch('prolongAdd', n, ctx, x, coarse.sx, coarse.sp, coarse.x);
    }
    for (let s = 0; s < sweeps; s++) {
      team.launch('smooth', n, ctx, x, b, 1);
      team.launch('smooth', n, ctx, x, b, 0);
    }
  }
}
