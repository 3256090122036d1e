import { describe, expect, it, vi } from 'vitest';
import { page } from 'vitest/browser';
import { makeShot } from '#testing/values';
import { useSheet } from '#web/state';
import type { ViewportApi } from '#web/viewport';
import { CameraMenu } from './camera-menu';
import type { CameraControls } from './cameras';
import { notice, showOnBench } from '../for-tests';

const gate = { name: 'Gate', position: [4, 1.5, 6], target: [0, 1, 0], fieldOfView: 40, aspect: 16 / 9 } as const;
const viewport = {
  view: () => ({ position: [1.23456, 2, 3], target: [0, 0.5, 0], fieldOfView: 35 }),
  setView: vi.fn(),
  frame: vi.fn(),
  still: vi.fn(() => Promise.reject(new Error('no picture'))),
};

async function open(current: string | null): Promise<ReturnType<typeof vi.fn>> {
  const choose = vi.fn();
  vi.clearAllMocks();
  const controls: CameraControls = {
    api: () => viewport as unknown as ViewportApi,
    current,
    choose,
    stillName: () => 'still.png',
  };
  await showOnBench(<CameraMenu controls={controls} />, { shot: makeShot({ fields: { cameras: [gate] } }) });
  await page.getByRole('button', { name: current ?? 'Camera' }).click();
  return choose;
}
const item = (name: string | RegExp): Promise<void> => page.getByRole('menuitem', { name }).click();
const cameras = (): readonly { name: string; aspect: number; position: readonly number[] }[] => useSheet.getState().fields.cameras;

describe('cameras', () => {
  it('are looked through', async () => {
    const choose = await open(null);
    await item(/^Gate.*16 : 9/);
    expect([viewport.setView.mock.lastCall?.[0], choose.mock.lastCall]).toMatchObject([{ name: 'Gate', fieldOfView: 40 }, ['Gate']]);
  });

  it('are saved from the view, under a name that is free', async () => {
    const choose = await open(null);
    await item('Save this view as a camera…');
    await page.getByRole('textbox', { name: 'Name' }).fill('Gate');
    await page.getByRole('button', { name: 'Save' }).click();
    await expect.element(page.getByText('There is a camera "Gate" already.')).toBeVisible();
    await page.getByRole('textbox', { name: 'Name' }).fill('Yard');
    await page.getByRole('button', { name: 'Save' }).click();
    expect(cameras().map((k) => [k.name, k.position])).toEqual([
      ['Gate', gate.position],
      ['Yard', [1.235, 2, 3]],
    ]);
    expect(choose.mock.lastCall).toEqual(['Yard']);
  });

  it('get another aspect, and are removed, which can be undone', async () => {
    await open('Gate');
    await item('Aspect 2.39 : 1');
    expect(cameras()[0]!.aspect).toBe(2.39);
    await page.getByRole('button', { name: 'Gate' }).click();
    await item('Remove Gate');
    expect(cameras()).toEqual([]);
    useSheet.getState().stepBack();
    expect(cameras()).toHaveLength(1);
  });

  it('a still that cannot be made says so', async () => {
    await open('Gate');
    await item('Still of the view as PNG');
    expect(viewport.still).toHaveBeenCalledWith(16 / 9);
    await expect.poll(notice).toMatch(/^The still could not be made: .*no picture/);
  });
});
