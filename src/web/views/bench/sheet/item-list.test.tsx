import { describe, expect, it } from 'vitest';
import { makeShot, withGroups } from '#testing/values';
import { withValue, gasSolveOf, settingsSchema } from '#core/shot';
import { page, userEvent } from 'vitest/browser';
import { useSheet } from '#web/state';
import { sheet, showOnBench } from '../for-tests';
import { ItemList } from './item-list';
import { useSelection } from '../view/selection';

const names = (): string[] => sheet().sources.map((s) => s.name);

describe('the list of sources', () => {
  it('a new one is there, open, and selected', async () => {
    await showOnBench(<ItemList group="sources" />);
    await page.getByRole('button', { name: 'Add a source' }).click();
    expect(names()).toEqual(['Fire bed', 'Source 2']);
    expect(useSelection.getState().selection).toEqual({ group: 'sources', index: 1 });
    await expect.element(page.getByRole('button', { name: /^Source 2/, expanded: true })).toBeVisible();
  });

  it('a solid, which changes the scene alone and leaves the solve what it was, is open with its fields', async () => {
    await showOnBench(<ItemList group="solids" />);
    await page.getByRole('button', { name: 'Add a solid' }).click();
    await expect.element(page.getByRole('textbox', { name: 'Centre x, m' })).toBeVisible();
  });

  it('removing takes the right one, and undo brings it back in its place', async () => {
    await showOnBench(<ItemList group="sources" />);
    await page.getByRole('button', { name: 'Add a source' }).click();
    await page.getByRole('button', { name: 'Add a source' }).click();
    await page.getByRole('button', { name: 'Remove Source 2' }).click();
    expect(names()).toEqual(['Fire bed', 'Source 3']);
    expect(useSelection.getState().selection).toBeNull();
    useSheet.getState().stepBack();
    expect(names()).toEqual(['Fire bed', 'Source 2', 'Source 3']);
  });

  it('one that is made smaller offers the voxel size that gives it as many voxels as it had', async () => {
    await showOnBench(<ItemList group="sources" />);
    await page.getByRole('button', { name: /^Fire bed/ }).click();
    const before = sheet();
    const small = { kind: 'ball' as const, centre: [0, 1, 0] as [number, number, number], radius: 0.1 };
    const large = { ...small, radius: 0.2 };
    useSheet.setState((s) => ({ base: withGroups(s.base, { sources: [{ ...gasSolveOf(s.base).sources[0]!, shape: large }] }) }));
    useSheet.getState().editSolve((s) => withValue(s, ['sources', 0, 'shape'], large));
    const note = page.getByRole('status', { name: 'Voxels across the source' });
    await expect.element(note).not.toBeInTheDocument();
    useSheet.getState().editSolve((s) => withValue(s, ['sources', 0, 'shape'], small));
    await expect.element(note).toBeVisible();
    await note.getByRole('button', { name: /^Voxel size/ }).click();
    expect(sheet().detail.voxelSize).toBeCloseTo(before.detail.voxelSize / 2, 3);
    await expect.element(note).not.toBeInTheDocument();
  });

  it('hides and shows one without losing anything of it', async () => {
    await showOnBench(<ItemList group="sources" />);
    const before = sheet().sources[0];
    await page.getByRole('button', { name: 'Hide Fire bed' }).click();
    expect(sheet().sources[0]).toEqual({ ...before, hidden: true });
    await page.getByRole('button', { name: 'Show Fire bed' }).click();
    expect(sheet().sources[0]).toEqual(before);
  });

  it('a name is taken at Enter; an empty one is not', async () => {
    await showOnBench(<ItemList group="sources" />);
    await page.getByRole('button', { name: /^Fire bed/ }).click();
    const field = page.getByRole('textbox', { name: 'Name' });
    await field.fill('Ember bed');
    await userEvent.keyboard('{Enter}');
    expect(names()).toEqual(['Ember bed']);
    await page.getByRole('textbox', { name: 'Name' }).fill('  ');
    await userEvent.keyboard('{Enter}');
    expect(names()).toEqual(['Ember bed']);
  });

  it('of a liquid that emits: of rate, speed and opening the third is said, with the litres to come', async () => {
    const shot = makeShot();
    const sources = [
      {
        name: 'Spout',
        act: 'emits',
        shape: { kind: 'cylinder', centre: [0, 1, 0], radius: 0.1, height: 0.1, rotation: [0, 0, 0] },
        velocity: [0, -2, 0],
      },
    ];
    const passes = [{ id: 'solve', kind: 'liquid', name: 'Solve', settings: { sources } }];
    const settings = settingsSchema.parse({ passes });
    await showOnBench(<ItemList group="sources" />, {
      shot: { ...shot, variants: shot.variants.map((v) => ({ ...v, settings })) },
    });
    await page.getByRole('button', { name: /^Spout/ }).click();
    const note = page.getByRole('status', { name: 'Stream' });
    // 314 cm2 at 2 m/s; of 24 frames the first holds what is there before anything moves.
    await expect.element(note).toHaveTextContent(/Opening 314 cm², 2 m\/s: 62.8 l\/s\. 60.2 l by frame 24\./);
    const opening = page.getByRole('combobox', { name: 'Opening' });
    await expect.element(opening).not.toBeInTheDocument();
    useSheet.getState().editSolve((s) => withValue(s, ['sources', 0, 'volumeRate'], 0.01));
    await expect.element(note).toHaveTextContent(/Opening 314 cm², 0.318 m\/s: 10 l\/s\./);
    await expect.element(opening).toBeVisible();
    useSheet.getState().editSolve((s) => withValue(s, ['sources', 0, 'opening'], 'fits'));
    await expect.element(note).toHaveTextContent(/Opening 50 cm², 2 m\/s: 10 l\/s\./);
    useSheet.getState().editSolve((s) => withValue(s, ['sources', 0, 'act'], 'keeps'));
    await expect.element(note).not.toBeInTheDocument();
  });

  it('without sources says what that means', async () => {
    await showOnBench(<ItemList group="sources" />);
    await page.getByRole('button', { name: 'Remove Fire bed' }).click();
    await expect.element(page.getByText('Without a source nothing will be seen.')).toBeVisible();
  });
});

describe('the list of forces', () => {
  it('offers every kind and numbers what is of the same kind', async () => {
    await showOnBench(<ItemList group="fields" />);
    for (let n = 0; n < 2; n++) {
      await page.getByRole('button', { name: 'Add a force' }).click();
      await page.getByRole('menuitem', { name: 'Draught' }).click();
    }
    expect(sheet().forces.fields.map((f) => [f.kind, f.name])).toEqual([
      ['draught', 'Draught'],
      ['draught', 'Draught 2'],
    ]);
  });
});
