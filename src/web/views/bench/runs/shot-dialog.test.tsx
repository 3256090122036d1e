import { describe, expect, it, vi } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { useSheet } from '#web/state';
import { showOnBench } from '../for-tests';
import { ShotDialog } from './shot-dialog';

const open = async (): Promise<ReturnType<typeof vi.fn>> => {
  const close = vi.fn();
  await showOnBench(<ShotDialog onClose={close} />);
  return close;
};
const type = async (label: string, text: string): Promise<void> => {
  await page.getByRole('textbox', { name: label }).fill(text);
  await userEvent.tab();
};
const save = (): Promise<void> => page.getByRole('button', { name: 'Save' }).click();
const fields = () => useSheet.getState().fields;

describe('frames and budgets of a shot', () => {
  it('are changed together, as one step of undo', async () => {
    const close = await open();
    const before = fields();
    await type('Last frame', '48');
    await type('Time budget, h', '3');
    expect(fields()).toBe(before);
    await save();
    expect(fields()).toMatchObject({ lastFrame: 48, budgets: { time: 10_800 } });
    expect(close).toHaveBeenCalledOnce();
    useSheet.getState().stepBack();
    expect(fields()).toEqual(before);
  });

  it('that do not go together are refused, and the dialog stays', async () => {
    const close = await open();
    const before = fields();
    await page.getByRole('textbox', { name: 'Name' }).fill('');
    await save();
    await expect.element(page.getByRole('alert')).toBeVisible();
    expect([fields(), close.mock.calls.length]).toEqual([before, 0]);
  });

  it('Cancel leaves all as it was', async () => {
    const close = await open();
    const before = fields();
    await type('Last frame', '99');
    await page.getByRole('button', { name: 'Cancel' }).click();
    expect([fields(), close.mock.calls.length]).toEqual([before, 1]);
  });
});
