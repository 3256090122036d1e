import { describe, expect, it } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { useNotice, useSheet } from '#web/state';
import { sheet, showOnBench } from '../for-tests';
import { RealSizeCalculator } from './real-size-calculator';

const type = async (label: string, text: string): Promise<void> => {
  await page.getByRole('textbox', { name: label }).fill(text);
  await userEvent.keyboard('{Enter}');
};

describe('bringing a set to its real size', () => {
  it('is one edit of the whole sheet: lengths by N', async () => {
    await showOnBench(<RealSizeCalculator />);
    const before = { settings: sheet(), fields: useSheet.getState().fields };
    await type('Built at 1 : N', '4');
    expect(sheet()).toBe(before.settings);
    await page.getByRole('button', { name: 'Bring to real size' }).click();
    expect(sheet().detail.voxelSize).toBeCloseTo(0.2, 6);
    expect(sheet().sources[0]!.shape).toMatchObject({ radius: 1.6, centre: [0, 2, 0] });
    expect(useSheet.getState().fields.metresPerUnit).toBe(4);
    useNotice.getState().notice?.action?.run();
    expect({ settings: sheet(), fields: useSheet.getState().fields }).toEqual(before);
  });

  it('or time is scaled instead: by one over the root of N, and nothing else', async () => {
    await showOnBench(<RealSizeCalculator />);
    const before = sheet();
    await type('Built at 1 : N', '16');
    await page.getByRole('button', { name: 'Scale time instead' }).click();
    expect(useSheet.getState().fields.timeScale).toBe(0.25);
    expect(sheet()).toBe(before);
    await expect.element(page.getByRole('status')).toHaveTextContent('Reads 16 times bigger');
  });

  it('has nothing to do at 1 : 1', async () => {
    await showOnBench(<RealSizeCalculator />);
    await type('Built at 1 : N', '1');
    await expect.element(page.getByRole('button', { name: 'Bring to real size' })).toBeDisabled();
  });
});
