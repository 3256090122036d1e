import { describe, expect, it } from 'vitest';
import { StatePace } from './state-pace';

/** Share of a run's time that states take: frames of some seconds, states of some bytes. */
function shareOf(frameSeconds: number, stateSeconds: number, bytes: number): { share: number; lost: number } {
  const pace = new StatePace(0);
  let [now, spent, last, lost] = [0, 0, 0, 0];
  for (let n = 0; n < 4000; n++) {
    now += frameSeconds;
    lost = Math.max(lost, now - last);
    if (!pace.due(now, bytes)) continue;
    now += stateSeconds;
    spent += stateSeconds + bytes / 2e8;
    pace.took(stateSeconds, bytes, now);
    last = now;
  }
  return { share: spent / now, lost };
}

describe('how often a state is taken', () => {
  it('takes at most 3 % of the time, whatever frames and states take', () => {
    for (const [frame, state, bytes] of [
      [0.02, 0.005, 4e6],
      [0.5, 0.05, 4e7],
      [8, 0.6, 5e8],
      [100, 2, 2e9],
    ] as const) {
      const { share } = shareOf(frame, state, bytes);
      expect(share).toBeLessThan(0.0305);
      expect(share).toBeGreaterThan(0.005);
    }
  });

  it('loses a frame or two of slow ones', () => {
    expect(shareOf(100, 1, 1e8).lost).toBeLessThan(102);
  });
});
