import { describe, expect, it, vi } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import type { Finding } from '#core/checks';
import { makePrediction } from '#testing/values';
import { useNotice } from '#web/state';
import { FindingsDrawer } from './findings-drawer';
import { notice, sheet, showOnBench } from '../for-tests';

const finding = (edits: Finding['remedies'][0]['edits']): Finding => ({
  id: 'substeps',
  group: 'stepping',
  severity: 'warning',
  title: 'Matter crosses 6 voxels in a substep',
  text: 'The motion is smeared.',
  frames: { from: 12, to: 18, count: 3, list: [12, 15, 18] },
  remedies: [{ title: 'Most substeps 8 → 16', edits }],
});
const open = (findings: readonly Finding[]) => showOnBench(<FindingsDrawer onClose={vi.fn()} />, { findings });
const query = (name: string): string | null => new URLSearchParams(window.location.search).get(name);

describe('findings', () => {
  it('lead to their group and their frames', async () => {
    await open([finding([])]);
    await page.getByRole('button', { name: 'Open Stepping' }).click();
    expect(query('group')).toBe('stepping');
    await page.getByRole('button', { name: /^Go to / }).click();
    // The address follows when what is shown rests.
    await expect.poll(() => query('frame')).toBe('12');
  });

  it('a remedy says what it costs, changes the draft as one edit, and can be taken back', async () => {
    const cheap = makePrediction();
    const dear = { ...makePrediction({ time: { likely: 24 } }), frames: [] };
    await showOnBench(<FindingsDrawer onClose={vi.fn()} />, {
      findings: [finding([{ path: 'stepping.maxSubsteps', value: 16 }])],
      predicted: { test: null, final: { ...cheap, frames: [] } },
      predictor: { of: () => dear, ofPlan: () => dear },
    });
    const before = sheet().stepping.maxSubsteps;
    const remedy = page.getByRole('button', { name: /Most substeps 8 → 16/ });
    await expect.element(remedy).toHaveTextContent('time × 2.4');
    await remedy.click();
    expect(sheet().stepping.maxSubsteps).toBe(16);
    expect(notice()).toBe('On the draft: Most substeps 8 → 16');
    useNotice.getState().notice?.action?.run();
    expect(sheet().stepping.maxSubsteps).toBe(before);
  });

  it('a remedy that does not go with the rest of the sheet changes nothing and says so', async () => {
    await open([finding([{ path: 'stepping.maxSubsteps', value: -3 }])]);
    const before = sheet();
    await page.getByRole('button', { name: /Most substeps/ }).click();
    expect(sheet()).toBe(before);
    expect(notice()).toMatch(/^Not changed: Most substeps 8 → 16 does not go with the other settings/);
  });

  it('of passes stand under their names, and lead to them', async () => {
    const found = { id: 'moved', title: 'Moved by 40 % from what was approved', text: 'Lower the strength.' };
    await showOnBench(<FindingsDrawer onClose={vi.fn()} />, { passFindings: [{ pass: 'finer', name: 'Finer', findings: [found] }] });
    const own = page.getByRole('region', { name: 'Finer' });
    await expect.element(own.getByRole('note', { name: found.title })).toHaveTextContent('Lower the strength.');
    await own.getByRole('button', { name: 'Open it' }).click();
    expect(query('pass')).toBe('finer');
    await expect.element(page.getByText('Nothing found')).not.toBeInTheDocument();
  });

  it('without any says that the checks are fine, and closes with Escape', async () => {
    const close = vi.fn();
    await showOnBench(<FindingsDrawer onClose={close} />);
    await expect.element(page.getByText('Nothing found')).toBeVisible();
    await userEvent.keyboard('{Escape}');
    expect(close).toHaveBeenCalledOnce();
  });
});
