/** Voxels of volume x voxels against gravity. */
export interface DebtState {
  readonly owed: number;
  /** What the last substep moved up and down, without its sign. */
  readonly stirred: number;
}

/**
 * What the volume correction has lifted, net, and the liquid has not paid for with its motion: left unpaid, waves live on it (a slosh of a third of its depth grew by 2 % a period). Each particle that is
 * moved up or down pays the same price a voxel, one substep later, so that all of them together pay what is owed. Rejected: each pays for its own lift alone. Up and down nearly cancel, and a small wave lost a third of its height a period.
 */
export class Debt {
  state: DebtState = { owed: 0, stirred: 0 };

  /** Part of what a voxel up is worth that is to be paid for each voxel up or down. */
  get price(): number {
    const { owed, stirred } = this.state;
    return owed > 0 && stirred > 0 ? Math.min(1, owed / stirred) : 0;
  }

  /** After a substep: net lift, lift without its sign, and what was paid. */
  took(raised: number, stirred: number, paid: number): void {
    const owed = this.state.owed + raised - paid;
    // What rests has nothing to pay with, and what sank is no credit for long.
    this.state = { owed: Math.max(-stirred, Math.min(stirred, owed)), stirred };
  }
}
