import { beforeEach, describe, expect, it } from 'vitest';
import { page } from 'vitest/browser';
import { render } from 'vitest-browser-react';
import { say, useNotice } from '#web/state';
import { Notices } from './notices';

beforeEach(() => {
  useNotice.setState({ notice: null });
});

describe('what is said', () => {
  it('an error stays when something else is said after it, and goes when it is closed', async () => {
    await render(<Notices />);
    say('error', 'The disk is full.');
    say('info', 'Copied.');
    await expect.element(page.getByText('Copied.')).toBeVisible();
    await expect.element(page.getByText('The disk is full.')).toBeVisible();
    await page.getByRole('alert').filter({ hasText: 'disk is full' }).getByRole('button', { name: 'Close' }).click();
    await expect.element(page.getByText('The disk is full.')).not.toBeInTheDocument();
    await expect.element(page.getByText('Copied.')).toBeVisible();
  });

  it('the same words twice are said once, but with a button each has its own', async () => {
    const undone: number[] = [];
    await render(<Notices />);
    say('info', 'Copied.');
    say('info', 'Copied.');
    for (const n of [1, 2]) say('info', 'Run freed.', { title: `Undo ${String(n)}`, run: () => undone.push(n) });
    await expect.element(page.getByRole('button', { name: 'Undo 2' })).toBeVisible();
    expect(page.getByText('Copied.').elements()).toHaveLength(1);
    await page.getByRole('button', { name: 'Undo 1' }).click();
    await page.getByRole('button', { name: 'Undo 2' }).click();
    expect(undone).toEqual([1, 2]);
  });

  it('its button does what it says, once', async () => {
    let done = 0;
    await render(<Notices />);
    say('success', 'Freed: 12 MB.', { title: 'Undo', run: () => done++ });
    await page.getByRole('button', { name: 'Undo' }).click();
    expect(done).toBe(1);
    await expect.element(page.getByText('Freed: 12 MB.')).not.toBeInTheDocument();
  });
});
