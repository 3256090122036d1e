import { describe, expect, it } from 'vitest';
import { withTeam } from '#testing';
import { Pool } from '.';

describe('buffers that are used again', () => {
  it('what is given back is taken before there is more, the best that fits', async () => {
    await withTeam(1, (team) => {
      const pool = new Pool(team);
      const [a, b] = [pool.take(100_000), pool.take(300_000)];
      const taken = team.allocated();
      pool.give(a, b);
      expect(pool.take(290_000)).toBe(b);
      expect(pool.take(90_000)).toBe(a);
      expect(team.allocated()).toBe(taken);
      expect(pool.take(90_000)).not.toBe(a);
    });
  });

  it('a small one does not take a much larger one away', async () => {
    await withTeam(1, (team) => {
      const pool = new Pool(team);
      const large = pool.take(10_000_000);
      pool.give(large);
      expect(pool.take(1000)).not.toBe(large);
      expect(pool.take(9_000_000)).toBe(large);
    });
  });

  it('counts what is in use at most since it was marked, and takes all back at once', async () => {
    await withTeam(1, (team) => {
      const pool = new Pool(team);
      const first = pool.take(1_000_000);
      pool.give(first);
      pool.mark();
      expect(pool.most).toBe(0);
      const again = pool.take(1_000_000);
      pool.take(500_000);
      expect(pool.most).toBeGreaterThanOrEqual(1_500_000);
      pool.give(again, again, 12345);
      pool.reset();
      pool.mark();
      expect(pool.most).toBe(0);
    });
  });
});
