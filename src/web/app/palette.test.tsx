import { afterEach, describe, expect, it, vi } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { commands } from '#web/commands';
import { show } from '#web/testing';
import { Palette } from './palette';

const runs = { test: vi.fn(), sketch: vi.fn(), still: vi.fn() };
let takeBack = (): void => undefined;
const open = async (mode: 'commands' | 'keys'): Promise<ReturnType<typeof vi.fn>> => {
  takeBack = commands.register([
    { id: 'sketch', title: 'Begin the Sketch', keys: 'Shift+s', run: runs.sketch },
    { id: 'test', title: 'Start the Test', keys: 'Shift+t', run: runs.test },
    { id: 'still', title: 'Make a still', keys: null, run: runs.still },
  ]);
  const closed = vi.fn();
  await show(<Palette mode={mode} onClose={closed} />);
  return closed;
};
const titles = (): string[] =>
  page
    .getByRole('option')
    .elements()
    .map((e) => e.firstChild?.textContent ?? '');

afterEach(() => {
  takeBack();
  vi.clearAllMocks();
});

describe('the command palette', () => {
  it('finds by typing, what begins with the words first', async () => {
    await open('commands');
    await page.getByRole('combobox').fill('st');
    expect(titles()).toEqual(['Start the Test', 'Make a still']);
    await page.getByRole('combobox').fill('nothing like it');
    await expect.element(page.getByText('No matching commands')).toBeVisible();
  });

  it('runs what the arrow keys choose, once it is closed', async () => {
    const closed = await open('commands');
    await userEvent.keyboard('{ArrowDown}{ArrowDown}{ArrowUp}{ArrowDown}');
    await expect.element(page.getByRole('option', { selected: true })).toHaveTextContent('Start the Test');
    await userEvent.keyboard('{Enter}');
    expect([runs.test.mock.calls.length, runs.sketch.mock.calls.length, closed.mock.calls.length]).toEqual([1, 0, 1]);
  });

  it('runs what is pressed', async () => {
    await open('commands');
    await page.getByRole('option', { name: 'Make a still' }).click();
    expect(runs.still).toHaveBeenCalledOnce();
  });

  it('as a list of keys shows what has keys, as they are pressed', async () => {
    await open('keys');
    expect(titles()).toEqual(['Begin the Sketch', 'Start the Test']);
    await expect.element(page.getByRole('option', { name: /Start the Test/ })).toHaveTextContent('Shift+T');
  });
});
