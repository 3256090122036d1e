import { type ReactElement, useState } from 'react';
import { describe, expect, it, vi } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { useSheet } from '#web/state';
import { sheet, showOnBench } from '../for-tests';
import { MoveDialog } from './move-dialog';
import type { MovingField } from './moves';

const HEAT: MovingField = { title: 'Heat', unit: 'kelvinDifference', item: ['sources', 0], paths: ['heat'] };
const VELOCITY: MovingField = {
  title: 'Velocity',
  unit: 'speed',
  item: ['forces'],
  paths: ['wind.x', 'wind.y', 'wind.z'],
};
const open = async (field = HEAT): Promise<ReturnType<typeof vi.fn>> => {
  const close = vi.fn();
  await showOnBench(<MoveDialog field={field} onClose={close} />);
  return close;
};
const press = (name: string | RegExp): Promise<void> => page.getByRole('button', { name, exact: true }).click();
const heat = (): unknown => sheet().sources[0]!.moves['heat'];
const expression = page.getByRole('textbox', { name: 'Expression over time' });

describe('what makes a number move', () => {
  it('keys begin with the number as it stands, at the first frame; still takes them away', async () => {
    await open();
    await press('Keys');
    expect(heat()).toMatchObject({ kind: 'keys', keys: [{ frame: 1, value: 400 }] });
    await press('Still');
    expect(heat()).toBeUndefined();
  });

  it('a key is pinned at a frame with the value that the curve has there, then set by number', async () => {
    await open();
    await press('Keys');
    await press('Key at frame 1');
    await page.getByRole('textbox', { name: 'Value of the key, K' }).fill('900');
    await page.getByRole('textbox', { name: 'Frame of the key' }).click();
    expect(heat()).toMatchObject({ keys: [{ frame: 1, value: 900 }] });
    await page.getByRole('textbox', { name: 'Frame of the key' }).fill('9');
    await page.getByRole('textbox', { name: 'Value of the key, K' }).click();
    expect(heat()).toMatchObject({ keys: [{ frame: 9, value: 900 }] });
    await press('Key at frame 1');
    expect(heat()).toMatchObject({
      keys: [
        { frame: 1, value: 900 },
        { frame: 9, value: 900 },
      ],
    });
    await press('Take the key out');
    expect(heat()).toMatchObject({ keys: [{ frame: 9 }] });
    // The last one stays: without keys it would not move.
    await press('Key at frame 1');
    await press('Take the key out');
    expect((heat() as { keys: object[] }).keys).toHaveLength(1);
  });

  it('an expression becomes one edit when typing rests; a mistake says its place and changes nothing', async () => {
    await open();
    await press('Expression');
    const steps = useSheet.getState().undo.length;
    await expression.fill('value * tim');
    await expect.element(page.getByText(/Column 9: "tim" is not known/)).toBeVisible();
    expect(heat()).toEqual({ kind: 'expression', text: 'value' });
    await expression.fill('value * time');
    await expect.poll(heat).toEqual({ kind: 'expression', text: 'value * time' });
    expect(useSheet.getState().undo.length).toBe(steps + 1);
  });

  it('names are completed, settings too, and a mistake is underlined where it is', async () => {
    await open();
    await press('Expression');
    await expression.fill('');
    await expression.click();
    await userEvent.keyboard('smoo');
    await page.getByRole('option', { name: 'smoothstep' }).click();
    await expect.element(expression).toHaveTextContent('smoothstep(');
    await expression.fill('2 * tim');
    await expect.poll(() => document.querySelector('.cm-lintRange-error')?.textContent).toBe('tim');
    await expression.fill('matter.li');
    await page.getByRole('option', { name: 'matter.lift' }).click();
    await expect.element(expression).toHaveTextContent('matter.lift');
    await expect.poll(() => document.querySelector('.cm-lintRange-error')).toBeNull();
  });

  it('what was typed last is kept when the dialog closes at once', async () => {
    const close = await open();
    await press('Expression');
    await expression.fill('2 * value');
    await press('Close');
    expect(close).toHaveBeenCalledOnce();
    await expect.poll(heat).toEqual({ kind: 'expression', text: '2 * value' });
  });

  it('or when the whole dialog is gone in the middle of typing', async () => {
    let close = (): void => undefined;
    function Opened(): ReactElement | null {
      const [open, setOpen] = useState(true);
      close = () => {
        setOpen(false);
      };
      return open ? <MoveDialog field={HEAT} onClose={close} /> : null;
    }
    await showOnBench(<Opened />);
    await press('Expression');
    await expression.fill('3 * value');
    close();
    await expect.poll(heat, { timeout: 300 }).toEqual({ kind: 'expression', text: '3 * value' });
  });

  it('an undo from outside shows in the text', async () => {
    await open();
    await press('Expression');
    await expression.fill('2 * value');
    await expect.poll(heat).toMatchObject({ text: '2 * value' });
    useSheet.getState().stepBack();
    await expect.element(expression).toHaveTextContent('value');
  });

  it('is held between two values, which stay when it becomes keys', async () => {
    await open();
    await press('Expression');
    await page.getByRole('switch', { name: 'Hold between' }).click();
    await page.getByRole('textbox', { name: 'Highest value, K' }).fill('600');
    await page.getByRole('textbox', { name: 'Lowest value, K' }).click();
    expect(heat()).toMatchObject({ kind: 'expression', limits: [expect.any(Number), 600] });
    const { limits } = heat() as { limits: number[] };
    await press('Keys');
    expect(heat()).toMatchObject({ kind: 'keys', limits });
    await page.getByRole('switch', { name: 'Hold between' }).click();
    expect(heat()).not.toHaveProperty('limits', limits);
  });

  it('of a vector each part moves by itself', async () => {
    await open(VELOCITY);
    await press('y');
    await press('Keys');
    expect(Object.keys(sheet().forces.moves)).toEqual(['wind.y']);
    await expect.element(page.getByRole('button', { name: 'y ~' })).toBeVisible();
    await press('x');
    await expect.element(page.getByRole('button', { name: 'Still', pressed: true })).toBeVisible();
  });
});
