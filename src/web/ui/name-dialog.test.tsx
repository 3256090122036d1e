import { describe, expect, it, vi } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { show } from '#web/testing';
import { NameDialog } from './name-dialog';

const open = async (onSave: (name: string) => Promise<void> | void): Promise<ReturnType<typeof vi.fn>> => {
  const onClose = vi.fn();
  await show(<NameDialog title="New shot" initial="" action="Create" onSave={onSave} onClose={onClose} />);
  return onClose;
};

describe('asking for a name', () => {
  it('hands it over without the blanks around it, by Enter, and closes', async () => {
    const save = vi.fn();
    const closed = await open(save);
    await expect.element(page.getByRole('button', { name: 'Create' })).toBeDisabled();
    await page.getByRole('textbox', { name: 'Name' }).fill('  Kiln 3 ');
    await userEvent.keyboard('{Enter}');
    expect(save.mock.calls).toEqual([['Kiln 3']]);
    await expect.poll(() => closed.mock.calls.length).toBe(1);
  });

  it('does nothing with blanks alone', async () => {
    const save = vi.fn();
    await open(save);
    await page.getByRole('textbox', { name: 'Name' }).fill('   ');
    await userEvent.keyboard('{Enter}');
    expect(save).not.toHaveBeenCalled();
  });

  it('stays open with what was wrong until the name is another', async () => {
    const closed = await open(() => Promise.reject(new Error('There is a shot "Kiln" already.')));
    const field = page.getByRole('textbox', { name: 'Name' });
    await field.fill('Kiln');
    await page.getByRole('button', { name: 'Create' }).click();
    await expect.element(page.getByText('There is a shot "Kiln" already.')).toBeVisible();
    await expect.element(field).toHaveValue('Kiln');
    expect(closed).not.toHaveBeenCalled();
    await field.fill('Kiln 2');
    await expect.element(page.getByText('There is a shot "Kiln" already.')).not.toBeInTheDocument();
  });

  it('cancels without a word to the server', async () => {
    const save = vi.fn();
    const closed = await open(save);
    await page.getByRole('button', { name: 'Cancel' }).click();
    expect([save.mock.calls.length, closed.mock.calls.length]).toEqual([0, 1]);
  });
});
