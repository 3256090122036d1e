import { describe, expect, it } from 'vitest';
import { isRuddleError } from '#core/errors';
import { makeGrid, withTeam } from '#testing';
import { controlOf, enter, fail } from './control';
import { allowThreads, cancelBy, createTeam, newControl } from '.';

describe('a team', () => {
  it('hands out zeroed, aligned memory, keeps old views valid as it grows, and says when there is no more', () => {
    const team = createTeam({ threads: 1, arenaBytes: 64e6 });
    const first = team.allocate(1000);
    const view = team.floats(first, 250);
    view[0] = 5;
    const second = team.allocate(40e6);
    expect(second % 64).toBe(0);
    expect(second).toBeGreaterThanOrEqual(first + 1000);
    expect(team.floats(second, 1000).every((v) => v === 0)).toBe(true);
    view[1] = 6;
    expect(team.floats(first, 2)).toEqual(Float32Array.from([5, 6]));
    try {
      team.allocate(40e6);
      expect.unreachable();
    } catch (error) {
      if (!isRuddleError(error, 'arena-too-small')) throw error;
      expect(error.fields.neededBytes).toBeGreaterThan(error.fields.availableBytes);
    }
  });

  it('does each item once, however many threads may work', async () => {
    await withTeam(3, (team) => {
      const grid = makeGrid(team, [64, 32, 32]);
      const level = grid.hierarchy.finest;
      const field = grid.field();
      const values = team.floats(field, grid.size);
      for (let n = 0; n < 60; n++) {
        team.launch('fillTiles', level.count, level.context, field, 1);
        team.launch('scaleTiles', level.count, level.context, field, 3);
        if (n % 20 === 0) expect(values.reduce((s, v) => s + v, 0)).toBe(3 * 64 * 32 * 32);
      }
    });
  });

  it('does not wait for a helper that never comes, nor lets one into a launch that is over', () => {
    const control = newControl(2);
    const team = createTeam({ threads: 2, control, startHelper: () => undefined });
    const grid = makeGrid(team, [64, 32, 32]);
    const field = grid.field();
    const level = grid.hierarchy.finest;
    const shared = controlOf(control);
    expect(enter(shared)).toBe(false);
    team.launch('fillTiles', level.count, level.context, field, 7);
    expect(team.floats(field, grid.size).reduce((sum, v) => sum + v, 0)).toBe(7 * 64 * 32 * 32);
    expect(enter(shared)).toBe(false);
  });

  it('says which kernel failed in a helper, and why, and works again with the next launch', () => {
    const control = newControl(2);
    const team = createTeam({ threads: 2, control, startHelper: () => undefined });
    const grid = makeGrid(team, [64, 32, 32]);
    const level = grid.hierarchy.finest;
    const field = grid.field();
    fail(controlOf(control), new Error('memory access out of bounds'));
    fail(controlOf(control), new Error('a second one'));
    const launch = (): void => {
      team.launch('fillTiles', level.count, level.context, field, 7);
    };
    expect(launch).toThrow('The kernel fillTiles failed: in a helper thread, memory access out of bounds.');
    launch();
    expect(team.floats(field, grid.size).reduce((sum, v) => sum + v, 0)).toBe(7 * 64 * 32 * 32);
  });

  it('whose kernel trapped, in whichever thread, tells the cause and is as good as before', async () => {
    for (const threads of [1, 2])
      await withTeam(threads, (team) => {
        const grid = makeGrid(team, [64, 32, 32]);
        const field = grid.field();
        const level = grid.hierarchy.finest;
        for (let n = 0; n < 20; n++) {
          // A list of tiles far beyond the memory.
          expect(() => {
            team.launch('scaleTiles', 64, 4_200_000_000, field, 1);
          }).toThrow(/The kernel scaleTiles failed: .*memory access out of bounds/);
          team.launch('fillTiles', level.count, level.context, field, n);
          expect(team.floats(field, grid.size).reduce((sum, v) => sum + v, 0)).toBe(n * 64 * 32 * 32);
        }
      });
  });

  it('is cancelled and slowed down from outside', () => {
    const control = newControl(2);
    const team = createTeam({ threads: 1, control });
    expect(team.cancelled()).toBe(false);
    allowThreads(control, 1);
    cancelBy(control);
    expect(team.cancelled()).toBe(true);
  });
});
