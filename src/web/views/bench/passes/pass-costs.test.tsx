import { describe, expect, it } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { followersOf, passSchema, solveOf } from '#core/shot';
import { makePassPrediction, makeShot, settingsOf } from '#testing/values';
import type { PassState } from '#web/state';
import { serve } from '#web/testing';
import { passesOnSheet, showOnBench } from '../for-tests';
import { PassCosts } from './pass-costs';

const settings = settingsOf(solveOf(makeShot().variants[0]!.settings), [
  { id: 'fine', kind: 'detail', name: 'Fine' },
  { id: 'thin', kind: 'resample', name: 'Thin' },
]);
const [fine, thin] = followersOf(settings);
const base: PassState = {
  id: 'fine',
  kind: 'detail',
  name: 'Fine',
  enabled: true,
  run: null,
  state: 'missing',
  fresh: { test: false, final: false },
  because: null,
  problem: null,
  reads: 'vdb',
  voxelSize: { test: 0.1, final: 0.05 },
  spacing: { test: null, final: null },
  test: makePassPrediction({ seconds: 20 }),
  final: makePassPrediction({ seconds: 100, bytes: 4e8, memoryBytes: 2e9 }),
};
const solve: PassState = { ...base, id: 'solve', kind: 'gas', name: 'Solve', test: null, final: null };

async function costsOf(pass: PassState, entry = fine!, above: Partial<PassState> = {}): Promise<void> {
  const shot = makeShot();
  serve({ 'GET /status': { threads: 2 } });
  await showOnBench(<PassCosts pass={pass} entry={entry} />, {
    shot: { ...shot, variants: [{ ...shot.variants[0]!, settings }] },
    passes: [{ ...solve, ...above }, pass],
    pass,
    loads: { test: () => 1e5, final: () => 8e5 },
  });
}
const line = (table: string, name: string) => page.getByRole('table', { name: table }).getByRole('row').filter({ hasText: name });

describe('what a pass would cost', () => {
  it('is said for each rung with ranges, with what it reads, and from what it is known', async () => {
    await costsOf(base, thin);
    await expect.element(line('Predicted costs', 'Test')).toHaveTextContent(/16–25 s/);
    await expect.element(line('Predicted costs', 'Final')).toHaveTextContent(/320–500 MB\s*1.6–2.5 GB/);
    await expect.element(page.getByText(/passes of its kind on this machine; the ranges hold nine of ten/)).toBeVisible();
    await expect.element(page.getByRole('slider')).not.toBeInTheDocument();
  });

  it('of one that makes finer stands beside a solve as fine, the coarse run counted while it is not there', async () => {
    await costsOf(base);
    await expect.element(page.getByText('To voxels of 0.05 m')).toBeVisible();
    const both = line('Coarse and finer, or fine', 'Final and Fine');
    // 80 to 125 s, and 7 to 15 s of the solve; its 30 to 80 MB; the larger of their memories.
    await expect.element(both).toHaveTextContent(/1–2 min\s*350–580 MB\s*1.6–2.5 GB/);
    await expect.element(line('Coarse and finer, or fine', 'Solved as fine')).toHaveTextContent(/7–15 s\s*30–80 MB\s*80–120 MB/);
  });

  it('of a skin says how many triangles its frames will have', async () => {
    const gives = new Map([
      [1, 28_400],
      [2, 74_100],
    ]);
    const test = makePassPrediction({ gives });
    await costsOf(
      { ...base, id: 'skin', kind: 'surface', test, final: null },
      passSchema.parse({ id: 'skin', kind: 'surface', name: 'Skin' }),
    );
    await expect.element(page.getByText(/; 28 k to 74 k triangles a frame$/)).toBeVisible();
  });

  it('counts what is there no more', async () => {
    await costsOf(base, fine, { fresh: { test: true, final: true } });
    const own = line('Coarse and finer, or fine', 'Fine').first();
    await expect.element(own).toHaveTextContent(/320–500 MB/);
  });

  it('over the factor is a curve whose point changes the factor by key', async () => {
    await costsOf(base);
    const point = page.getByRole('slider', { name: 'Factor: predicted time' });
    await expect.element(point).toHaveAttribute('aria-valuenow', '2');
    point.element().focus();
    await userEvent.keyboard('{ArrowRight}');
    const factor = (passesOnSheet()[0]!.settings as { factor: number }).factor;
    expect(factor).toBeGreaterThan(2);
    expect(factor).toBeLessThan(2.2);
  });
});
