import { expect, it } from 'vitest';
import { createTeam } from '#kernels';
import { living, pulse } from './living';

it('a team says that it lives with its launches, not more often than every second, and not when nothing is launched', () => {
  let now = 0;
  let told = 0;
  const team = createTeam({ threads: 1 });
  const alive = living(
    team,
    pulse(
      () => now,
      () => void told++,
    ),
  );
  const field = alive.allocate(4096);
  const launch = (at: number): number => {
    now = at;
    alive.launch('fillPlanes', 1, field, 16, 2);
    return told;
  };
  expect([0.5, 0.99, 1, 1.5, 2, 2.9, 7].map(launch)).toEqual([0, 0, 1, 1, 2, 2, 3]);
  now = 90;
  expect(told).toBe(3);
  expect(alive.floats(field, 16)[3]).toBe(2);
  team.stop();
});
