import { describe, expect, it } from 'vitest';
import { page } from 'vitest/browser';
import type { Finding } from '#core/checks';
import { solveSchema } from '#core/shot';
import { makeFrame, makeRun } from '#testing/values';
import { show } from '#web/testing';
import { type Compared, CompareTable } from './compare-table';

const settings = solveSchema.parse({ detail: { voxelSize: 0.05 } });
const finding = (id: string, title: string): Finding => ({
  id,
  group: 'matter',
  severity: 'note',
  title,
  text: '',
  frames: null,
  remedies: [],
});
const side = (title: string, changes: Parameters<typeof makeRun>[0], others: Partial<Compared> = {}): Compared => ({
  title,
  settings,
  findings: [],
  shown: { run: makeRun(changes), frames: [makeFrame(7, { report: { maxima: { speed: 3 } } })], stored: new Set([7]), error: null },
  ...others,
});
const text = (): string => page.getByTestId('compare-table').element().textContent ?? '';
const cells = (name: string): string[] => {
  const spans = [...page.getByTestId('compare-table').element().children];
  const at = spans.findIndex((e) => e.textContent === name);
  return spans.slice(at + 1, at + 4).map((e) => e.textContent ?? '');
};

describe('what differs between two runs', () => {
  it('cost with the way from one to the other: in percent, or as a factor when it is large', async () => {
    await show(
      <CompareTable
        one={side('run 2', { seconds: 30, memoryBytes: 300e6, bytes: 40e6 })}
        two={side('run 1', { seconds: 24, memoryBytes: 100e6, bytes: 50e6 })}
        frame={7}
      />,
    );
    expect(cells('Time')).toEqual(['30 s', '24 s', '+25 %']);
    expect(cells('Memory')).toEqual(['300 MB', '100 MB', '× 3.0']);
    expect(cells('Disk')).toEqual(['40 MB', '50 MB', '−20 %']);
    expect(cells('Frames')).toEqual(['24', '24', '']);
  });

  it('settings from the older to the newer, and the figures of the frame', async () => {
    const finer = solveSchema.parse({ detail: { voxelSize: 0.04 } });
    await show(<CompareTable one={side('run 2', {}, { settings: finer })} two={side('run 1', {})} frame={7} />);
    expect(text()).toMatch(/Settings, run 1 → run 2.*0\.05.*0\.04/);
    expect(text()).toContain('Frame 7');
  });

  it('says when the settings are not known, and leaves out a frame that only one has', async () => {
    const without = side('run 1', {}, { settings: null });
    await show(<CompareTable one={side('run 2', {})} two={{ ...without, shown: { ...without.shown, frames: [] } }} frame={7} />);
    expect(text()).toContain('of a deleted variant: not known');
    expect(text()).not.toContain('Frame 7');
  });

  it('findings that only one of them has', async () => {
    const [both, own] = [finding('walls', 'Matter meets the wall'), finding('mass', 'Matter is lost')];
    await show(
      <CompareTable one={side('run 2', {}, { findings: [both, own] })} two={side('run 1', {}, { findings: [both] })} frame={null} />,
    );
    expect(text()).toContain('only run 2: Matter is lost');
    expect(text()).not.toContain('Matter meets the wall');
  });
});
