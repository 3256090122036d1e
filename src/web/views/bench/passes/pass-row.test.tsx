import { beforeEach, describe, expect, it } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { solveOf, followersOf } from '#core/shot';
import { makePassPrediction, makePassRun, makeShot, settingsOf } from '#testing/values';
import { type PassState, navigate, useSheet } from '#web/state';
import { notice, passesOnSheet, showOnBench } from '../for-tests';
import { PassRow } from './pass-row';

const settings = settingsOf(solveOf(makeShot().variants[0]!.settings), [
  { id: 'coarse', kind: 'resample', name: 'Coarse' },
  { id: 'look', kind: 'stills', name: 'Look', input: { pass: 'coarse' } },
]);
const prediction = makePassPrediction({ seconds: 90 });
const solve: PassState = {
  id: 'solve',
  kind: 'gas',
  name: 'Solve',
  enabled: true,
  run: null,
  state: 'missing',
  fresh: { test: false, final: false },
  because: null,
  problem: null,
  reads: null,
  voxelSize: { test: null, final: null },
  spacing: { test: null, final: null },
  test: null,
  final: null,
};
const coarse: PassState = {
  ...solve,
  id: 'coarse',
  kind: 'resample',
  name: 'Coarse',
  run: makePassRun(settings, 'coarse'),
  state: 'stale',
  because: 'its own settings',
  final: prediction,
};
const look: PassState = { ...solve, id: 'look', kind: 'stills', name: 'Look', final: prediction };

async function row(passes: readonly PassState[], pass: PassState | null = null): Promise<void> {
  const shot = makeShot();
  await showOnBench(<PassRow />, { shot: { ...shot, variants: [{ ...shot.variants[0]!, settings }] }, passes, pass });
}
const chip = (name: RegExp): ReturnType<typeof page.getByRole> => page.getByRole('tab', { name });
const pause = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 60));
/** Takes one with the pointer and lets go over another. */
async function drag(from: ReturnType<typeof chip>, to: ReturnType<typeof chip>): Promise<void> {
  const middle = (of: ReturnType<typeof chip>) => {
    const { left, top, width, height } = of.element().getBoundingClientRect();
    return { clientX: left + width / 2, clientY: top + height / 2 };
  };
  const [a, b] = [middle(from), middle(to)];
  const send = async (type: string, target: EventTarget, at: { readonly clientX: number; readonly clientY: number }): Promise<void> => {
    target.dispatchEvent(new PointerEvent(type, { ...at, bubbles: true, cancelable: true, isPrimary: true, button: 0, pointerId: 1 }));
    await pause();
  };
  await send('pointerdown', from.element(), a);
  for (const part of [0.1, 0.5, 1])
    await send('pointermove', document, { clientX: a.clientX + part * (b.clientX - a.clientX), clientY: a.clientY });
  await send('pointerup', document, b);
}
const address = (): string | null => new URL(window.location.href).searchParams.get('pass');

beforeEach(() => {
  navigate({ pass: null });
});

describe('the row of passes', () => {
  it('says of each how it stands, what it took or would take, and why it is stale', async () => {
    await row([solve, coarse, look]);
    await expect.element(chip(/Coarse/)).toHaveTextContent(/24 s · 48 MB/);
    await expect.element(chip(/Coarse/)).toHaveAttribute('data-state', 'stale');
    await expect.element(chip(/Look/)).toHaveTextContent(/~90 s|~2 min/);
    await chip(/Coarse/).hover();
    await expect
      .element(page.getByRole('tooltip'))
      .toHaveTextContent(/Test · run 2: stale, because of its own settings\. A Final takes about .* and 3 MB/);
  });

  it.each([
    [{ ...coarse, run: { ...coarse.run!, state: 'running' as const, framesDone: 7 } }, '7 of 24'],
    [{ ...coarse, run: { ...coarse.run!, state: 'queued' as const } }, 'queued'],
    [{ ...look, problem: 'It needs density.' }, 'cannot be computed'],
  ])('while it goes on, and when it cannot be: %#', async (state, text) => {
    await row([solve, state]);
    await expect.element(chip(new RegExp(state.name))).toHaveTextContent(text);
  });

  it('is chosen by a press, or with the arrow keys', async () => {
    await row([solve, coarse, look]);
    await chip(/Look/).click();
    expect(address()).toBe('look');
    (chip(/Look/).element() as HTMLElement).focus();
    await userEvent.keyboard('{ArrowRight}');
    // From the one that is looked at: the solve here.
    expect(address()).toBe('coarse');
  });

  it('adds a pass that reads the solve and is looked at; it can be undone', async () => {
    await row([solve]);
    await page.getByRole('button', { name: 'Add a pass' }).click();
    await page.getByRole('menuitem', { name: /^Particles/ }).click();
    expect(passesOnSheet().map((p) => [p.id, p.kind, p.input.pass])).toEqual([
      ['coarse', 'resample', 'solve'],
      ['look', 'stills', 'coarse'],
      ['particles', 'particles', 'solve'],
    ]);
    expect(address()).toBe('particles');
    useSheet.getState().stepBack();
    expect(passesOnSheet()).toHaveLength(2);
  });

  it('moves with Alt and an arrow key as far as what it reads allows', async () => {
    await row([solve, coarse, look]);
    (chip(/Look/).element() as HTMLElement).focus();
    await userEvent.keyboard('{Alt>}{ArrowLeft}{/Alt}');
    expect(passesOnSheet().map((p) => p.id)).toEqual(['coarse', 'look']);
    expect(notice()).toMatch(/a pass comes after what it reads/);
  });

  it('moves where it is dragged, as far as what it reads allows; a press that does not move chooses', async () => {
    const alone: PassState = { ...look, id: 'alone', name: 'Alone' };
    const shot = makeShot();
    const with3 = settingsOf(solveOf(settings), [...followersOf(settings), { id: 'alone', kind: 'stills', name: 'Alone' }]);
    const passes = [solve, coarse, look, alone];
    await showOnBench(<PassRow />, { shot: { ...shot, variants: [{ ...shot.variants[0]!, settings: with3 }] }, passes, pass: null });
    const order = (): string[] => passesOnSheet().map((p) => p.id);
    await drag(chip(/Alone/), chip(/Coarse/));
    await expect.poll(order).toEqual(['alone', 'coarse', 'look']);
    // Each with all of its own settings.
    expect(passesOnSheet()).toStrictEqual([2, 0, 1].map((n) => followersOf(with3)[n]));
    expect(address()).toBeNull();
    useSheet.getState().stepBack();
    await expect.poll(order).toEqual(['coarse', 'look', 'alone']);
    await drag(chip(/Look/), chip(/Coarse/));
    await expect.poll(notice).toMatch(/a pass comes after what it reads/);
    expect(order()).toEqual(['coarse', 'look', 'alone']);
    // The solve is always the first.
    await drag(chip(/Solve/), chip(/Alone/));
    expect(order()).toEqual(['coarse', 'look', 'alone']);
  });
});
