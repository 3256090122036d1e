import { withValue } from '#core/shot';
import { describe, expect, it } from 'vitest';
import { page } from 'vitest/browser';
import type { VariantDto } from '#protocol';
import { makeShot } from '#testing/values';
import { useNotice, useSheet } from '#web/state';
import { serve } from '#web/testing';
import { notice, sheet, showOnBench } from '../for-tests';
import { VariantMenu } from './variant-menu';

const first = makeShot().variants[0]!;
const second: VariantDto = { ...first, id: 'variant-2', name: 'Slower', parentId: 'variant-1', frozen: true };
const open = async (variants: readonly VariantDto[] = [first, second]): Promise<void> => {
  await showOnBench(<VariantMenu />, { shot: makeShot({ variants }) });
  await page.getByRole('button', { name: 'Variant First' }).click();
};
const choose = (name: string | RegExp): Promise<void> => page.getByRole('menuitem', { name }).click();
const query = (name: string): string | null => new URLSearchParams(window.location.search).get(name);
const finer = (): boolean => useSheet.getState().editSolve((s) => withValue(s, ['detail', 'voxelSize'], 0.02));

describe('variants', () => {
  it('are listed with where they come from; another is opened without its address keeping the run', async () => {
    window.history.replaceState(null, '', '?run=run-1&frame=7');
    await open();
    await choose(/Slower.*used by runs, from First/);
    await expect.poll(() => query('variant')).toBe('variant-2');
    expect([query('run'), query('frame')]).toEqual([null, null]);
  });

  it('the number of edits of a draft is said, and they can be taken back as one step', async () => {
    // The draft is stored meanwhile: a server that refuses it would have the last word.
    serve({ 'PUT /variants/variant-1/draft': { draft: { revision: 1 }, revision: 1 } });
    await showOnBench(<VariantMenu />, { shot: makeShot({ variants: [first, second] }) });
    const before = sheet();
    finer();
    await expect.element(page.getByRole('button', { name: 'Variant First' })).toHaveTextContent('draft, 1 edit');
    await page.getByRole('button', { name: 'Variant First' }).click();
    await choose('Take the draft back');
    expect(sheet()).toEqual(before);
    useNotice.getState().notice?.action?.run();
    expect(sheet().detail.voxelSize).toBe(0.02);
  });

  it('duplicating saves what was typed first, then opens the new one', async () => {
    const asked = serve({
      'PUT /variants/variant-1/draft': { draft: { revision: 1 }, revision: 1 },
      'POST /variants/variant-1/duplicate': { id: 'variant-3' },
    });
    await open();
    finer();
    await choose('Duplicate this variant');
    await expect.poll(() => query('variant')).toBe('variant-3');
    expect(asked.map((a) => a.method)).toEqual(['PUT', 'POST']);
    expect(notice()).toBe('First is duplicated.');
  });

  it('deleting opens another and can be undone; the only one cannot be deleted', async () => {
    const asked = serve({ 'POST /variants/variant-1/delete': {}, 'POST /variants/variant-1/restore': {} });
    await open();
    await choose('Delete this variant');
    await expect.poll(() => query('variant')).toBe('variant-2');
    useNotice.getState().notice?.action?.run();
    await expect.poll(() => query('variant')).toBe('variant-1');
    expect(asked.map((a) => a.path)).toEqual(['/variants/variant-1/delete', '/variants/variant-1/restore']);
  });

  it('the only one cannot be deleted', async () => {
    await open([first]);
    await expect.element(page.getByRole('menuitem', { name: 'Delete this variant' })).toHaveAttribute('aria-disabled', 'true');
  });

  it('a name that the server refuses stays in its dialog, with the reason', async () => {
    serve({
      'PUT /variants/variant-1/name': () => {
        // eslint-disable-next-line @typescript-eslint/only-throw-error -- an answer of the server, not an error of this page
        throw { tag: 'conflict', message: 'There is a variant "Slower" already.', fields: {}, cause: null };
      },
    });
    await open();
    await choose('Rename this variant…');
    await page.getByRole('textbox', { name: 'Name' }).fill('Slower');
    await page.getByRole('button', { name: 'Rename' }).click();
    await expect.element(page.getByText('There is a variant "Slower" already.')).toBeVisible();
  });
});
