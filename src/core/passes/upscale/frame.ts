import type { PlainBounds } from '#core/flow';
import type { KernelTeam } from '#core/grid';
import type { Lattice } from './lattice';

/** Tells the kernels of assembly/upscale.ts how a lattice and a fine window lie to each other. */
export class LatticeFrame {
  /** Pointers to what the kernels read. */
  readonly frame: number;
  readonly window: number;

  constructor(
    private readonly team: KernelTeam,
    /** Fine voxels a point. */
    private readonly per: number,
  ) {
    this.frame = team.allocate(28);
    this.window = team.allocate(16);
  }

  /** To be called whenever one of the two has changed. */
  describe({ low, size }: Lattice, bounds: Pick<PlainBounds, 'window' | 'hierarchy'>): void {
    const { window: w } = bounds;
    const floats = this.team.floats(this.frame, 7);
    this.team.words(this.frame, 3).set(size);
    floats[3] = 1 / this.per;
    [w.ox, w.oy, w.oz].forEach((o, a) => {
      floats[4 + a] = o / this.per - 0.5 - (low[a] ?? 0);
    });
    const { sx, sp } = bounds.hierarchy.finest;
    this.team.words(this.window, 4).set([sp + sx + 4, w.nx, w.ny, w.nz]);
  }

  /** The arguments with which kernels average over coarse voxels: frame, window, voxels a point, and the fine voxel at which point 0 begins. */
  averaging({ low }: Lattice, { window: w }: Pick<PlainBounds, 'window'>): number[] {
    return [this.frame, this.window, this.per, ...[w.ox, w.oy, w.oz].map((o, n) => (low[n] ?? 0) * this.per - o)];
  }
}
