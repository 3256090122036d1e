import { describe, expect, it } from 'vitest';
import type { PassFrameDto } from '#protocol';
import { followersOf } from '#core/shot';
import { makePassPrediction, settingsOf } from '#testing/values';
import { findingsOf, memoryFinding } from './pass-findings';

const [fine, thin, held] = followersOf(
  settingsOf({}, [
    { id: 'fine', kind: 'detail', name: 'Fine', settings: { factor: 4 } },
    { id: 'thin', kind: 'resample', name: 'Thin' },
    { id: 'held', kind: 'held', name: 'Held', settings: { mayMove: 0.2 } },
  ]),
);

describe('findings of a pass', () => {
  it('say before it is started that it needs more memory than the shot may take, and the factor that fits', () => {
    const final = makePassPrediction({ memoryBytes: 8e9 });
    expect(memoryFinding({ final }, fine!, 1e9)).toEqual({
      id: 'memory',
      title: 'Its Final needs 6.4–10 GB of memory',
      text: "The shot's budget is 1 GB. A factor of 2 fits; or let it read a smaller cache.",
    });
    expect(memoryFinding({ final }, thin!, 1e9)!.text).toBe("The shot's budget is 1 GB. Let it read a coarser or smaller cache.");
    expect(memoryFinding({ final }, fine!, 8e9)).toBeNull();
    expect(memoryFinding({ final: null }, fine!, 1)).toBeNull();
  });

  it('are those of its kind, of its frames in order', () => {
    const frame = (n: number, by: number): PassFrameDto =>
      ({
        frame: n,
        inRange: true,
        stored: true,
        damage: null,
        bytes: 1,
        report: { frame: n, moved: { density: by, centre: 0, extent: 0 } },
      }) as never;
    const [found] = findingsOf(held!, [frame(9, 0.5), frame(3, 0.3)]);
    expect(found!.title).toBe('Moved by 40 % from what was approved');
    expect(found!.text).toMatch(/in frames 3 to 9, 2 of them/);
    expect(findingsOf(held!, [])).toEqual([]);
  });
});
