import { type ReactElement, useState } from 'react';
import { describe, expect, it, vi } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { show } from '#web/testing';
import { NumberField } from './number-field';

type Props = Partial<Parameters<typeof NumberField>[0]>;

/** A field that keeps what it is given, as a sheet does. */
async function field(
  start: number,
  props: Props = {},
): Promise<{ changes: ReturnType<typeof vi.fn>; input: ReturnType<typeof page.getByRole> }> {
  const changes = vi.fn();
  function Sheet(): ReactElement {
    const [value, setValue] = useState(start);
    return (
      <NumberField
        label="Voxel size"
        unit="metre"
        {...props}
        value={value}
        onChange={(v) => {
          changes(v);
          setValue(v);
        }}
      />
    );
  }
  await show(<Sheet />);
  return { changes, input: page.getByRole('textbox') };
}

describe('a number with its unit', () => {
  it('is called by its name and its unit, and shows both', async () => {
    const { input } = await field(0.05);
    await expect.element(input).toHaveAccessibleName('Voxel size, m');
    await expect.element(input).toHaveValue('0.05 m');
  });

  it('takes what is typed in other units and as a fraction, once, at Enter', async () => {
    const { input, changes } = await field(0.05);
    await input.fill('12cm');
    expect(changes).not.toHaveBeenCalled();
    await userEvent.keyboard('{Enter}');
    expect(changes.mock.calls).toEqual([[0.12]]);
    await expect.element(input).toHaveValue('0.12 m');
    await input.fill('1/8');
    await userEvent.tab();
    expect(changes.mock.calls).toEqual([[0.12], [0.125]]);
  });

  it('untouched is not rounded by Enter; a second Enter after an edit is no error', async () => {
    const { input, changes } = await field(0.123456789);
    await input.click();
    await userEvent.keyboard('{Enter}{Enter}');
    expect(changes).not.toHaveBeenCalled();
    await expect.element(page.getByRole('alert')).not.toBeInTheDocument();
    await input.fill('0.2');
    await userEvent.keyboard('{Enter}{Enter}');
    expect(changes.mock.calls).toEqual([[0.2]]);
    await expect.element(page.getByRole('alert')).not.toBeInTheDocument();
    await expect.element(input).toHaveValue('0.2 m');
  });

  it('with a comma that may be either changes nothing', async () => {
    const { input, changes } = await field(0.05, { max: 5000 });
    await input.fill('1,200');
    await userEvent.keyboard('{Enter}');
    await expect.element(page.getByRole('alert')).toHaveTextContent('"1,200" may mean 1200 or 1.2: write it without the comma');
    expect(changes).not.toHaveBeenCalled();
  });

  it.each([
    ['abc', /./],
    ['2', /at most 1 m/],
    ['-1', /at least 0.001 m/],
  ])('says what is wrong with "%s", changes nothing, and takes it back with Escape', async (typed, said) => {
    const { input, changes } = await field(0.05, { min: 0.001, max: 1 });
    await input.fill(typed);
    await userEvent.keyboard('{Enter}');
    await expect.element(page.getByRole('alert')).toHaveTextContent(said);
    expect(changes).not.toHaveBeenCalled();
    await userEvent.keyboard('{Escape}');
    await expect.element(page.getByRole('alert')).not.toBeInTheDocument();
    await expect.element(input).toHaveValue('0.05 m');
  });

  it('forgets with Escape what could have been taken over', async () => {
    const { input, changes } = await field(0.05);
    await input.fill('0.2');
    await userEvent.keyboard('{Escape}');
    await expect.element(input).toHaveValue('0.05 m');
    expect(changes).not.toHaveBeenCalled();
  });

  it('wants whole numbers where only they have a meaning', async () => {
    const { input, changes } = await field(4, { unit: 'none', integer: true, min: 1, max: 64 });
    await input.fill('2.5');
    await userEvent.keyboard('{Enter}');
    await expect.element(page.getByRole('alert')).toHaveTextContent('a whole number');
    expect(changes).not.toHaveBeenCalled();
  });

  it('steps with the arrow keys, ten times with Shift, and stops at its limits', async () => {
    const { input, changes } = await field(1, { unit: 'none', step: 0.5, max: 3 });
    await input.click();
    await userEvent.keyboard('{ArrowUp}{ArrowDown}{ArrowDown}');
    expect(changes.mock.calls.flat()).toEqual([1.5, 1, 0.5]);
    await userEvent.keyboard('{Shift>}{ArrowUp}{/Shift}');
    expect(changes.mock.lastCall).toEqual([3]);
  });

  it('multiplies where steps are ratios', async () => {
    const { input, changes } = await field(0.1, { step: 2, ratio: true });
    await input.click();
    await userEvent.keyboard('{ArrowUp}{ArrowUp}{ArrowDown}');
    expect(changes.mock.calls.flat()).toEqual([0.2, 0.4, 0.2]);
  });

  it('follows a hand that drags sideways, without opening the text', async () => {
    const { input, changes } = await field(1, { unit: 'none', step: 0.1 });
    const element = input.element();
    const at = (type: string, x: number): void => {
      element.dispatchEvent(new PointerEvent(type, { bubbles: true, clientX: x, pointerId: 1 }));
    };
    vi.spyOn(element, 'setPointerCapture').mockImplementation(() => undefined);
    vi.spyOn(element.parentElement!, 'setPointerCapture').mockImplementation(() => undefined);
    at('pointerdown', 100);
    at('pointermove', 116);
    at('pointermove', 124);
    at('pointermove', 92);
    at('pointerup', 92);
    expect(changes.mock.calls.flat()).toEqual([1.2, 1.3, 0.9]);
    await expect.element(input).not.toHaveFocus();
  });
});
