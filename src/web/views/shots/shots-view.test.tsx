import { describe, expect, it } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { SHOT_VERSION } from '#core/shot';
import type { ShotRowDto } from '#protocol';
import { makeRun, makeShot } from '#testing/values';
import { useNotice } from '#web/state';
import { serve, show } from '#web/testing';
import { ShotsView } from './shots-view';

const shot = makeShot();
const row = (changes: Partial<Extract<ShotRowDto, { readable: true }>> = {}): ShotRowDto => ({
  readable: true,
  id: shot.id,
  slug: shot.slug,
  lastActivity: Date.now() - 5 * 60_000,
  fields: { ...shot.fields, budgets: { ...shot.fields.budgets, time: 60 } },
  variants: 2,
  runs: [],
  ...changes,
});
const rows = page.getByRole('table', { name: 'Shots' }).getByRole('row');

describe('the list of shots', () => {
  it('says what to do when there are none, and what is wrong when it cannot be had', async () => {
    serve({ 'GET /shots': [] });
    await show(<ShotsView />);
    await expect.element(page.getByText('No shots yet')).toBeVisible();
  });

  it('tries again when it is told to', async () => {
    let broken = true;
    serve({
      'GET /shots': () => {
        // eslint-disable-next-line @typescript-eslint/only-throw-error -- an answer of the server, not an error of this page
        if (broken) throw { tag: 'storage', message: 'The database is gone.', fields: {}, cause: null };
        return [row()];
      },
    });
    await show(<ShotsView />);
    await expect.element(page.getByText('The database is gone.')).toBeVisible();
    broken = false;
    await page.getByRole('button', { name: 'Try again' }).click();
    await expect.element(rows.nth(1)).toHaveTextContent('Kiln lid');
  });

  it('a row holds its newest runs with their state, what they took of the budgets, and when', async () => {
    const runs = [
      makeRun({ id: 'a', number: 1, seconds: 90 }),
      makeRun({ id: 'b', number: 2, state: 'running', framesDone: 3, seconds: 30 }),
      makeRun({ id: 'c', number: 3, freed: true, seconds: 0 }),
      makeRun({ id: 'd', number: 4, damagedFrames: 2, missingFrames: 1, seconds: 0 }),
    ];
    serve({ 'GET /shots': [row({ runs })] });
    await show(<ShotsView />);
    const text = rows.nth(1);
    await expect.element(text).toHaveTextContent(/Kiln lid.*2 variants · frames 1–24/);
    await expect
      .element(text)
      .toHaveTextContent(/run 4.*3 of 24 frames damaged or missing.*run 3.*freed.*run 2.*computing, 3 of 24.*and 1 more/);
    await expect.element(text).toHaveTextContent(/2 min of 1 min/);
    await expect.element(text).toHaveTextContent('5 minutes ago');
    await page.getByRole('button', { name: 'Open Kiln lid' }).click();
    expect(window.location.pathname).toBe('/bench/kiln-lid');
  });

  it('a shot that cannot be read says why, and gives its data away', async () => {
    serve({
      'GET /shots': [
        { readable: false, id: 'x', slug: 'old-flue', lastActivity: 0, reason: 'variant First: detail.voxelSize is missing' },
        row(),
      ],
    });
    await show(<ShotsView />);
    await expect.element(rows.nth(1)).toHaveTextContent(/old-flue.*Cannot be read: variant First: detail\.voxelSize is missing/);
    await expect.element(page.getByRole('link', { name: 'Export raw data' })).toHaveAttribute('href', '/api/shots/old-flue/raw');
    await expect.element(rows.nth(2)).toHaveTextContent('Kiln lid');
  });

  it('a shot is deleted by a press, and brought back by another', async () => {
    let there = true;
    const asked = serve({
      'GET /shots': () => (there ? [row()] : []),
      'POST /shots/shot-1/delete': () => ((there = false), {}),
      'POST /shots/shot-1/restore': () => ((there = true), {}),
    });
    await show(<ShotsView />);
    await page.getByRole('button', { name: 'Delete Kiln lid' }).click();
    await expect.element(page.getByText('No shots yet')).toBeVisible();
    expect(useNotice.getState().notice?.text).toBe('Kiln lid is deleted, its caches are freed.');
    useNotice.getState().notice?.action?.run();
    await expect.element(rows.nth(1)).toHaveTextContent('Kiln lid');
    expect(asked.filter((a) => a.method === 'POST').map((a) => [a.path, a.body])).toEqual([
      ['/shots/shot-1/delete', { sure: false }],
      ['/shots/shot-1/restore', {}],
    ]);
  });

  it('a shot with approved caches is deleted only after asking; one that is refused for another reason says why', async () => {
    let why = { reason: 'approved', message: 'Run 4 of this shot is approved: somebody wanted to keep its cache.' };
    const asked = serve({
      'GET /shots': [row()],
      'POST /shots/shot-1/delete': ({ body }: { body: { sure: boolean } }) => {
        // eslint-disable-next-line @typescript-eslint/only-throw-error -- an answer of the server, not an error of this page
        if (!body.sure) throw { tag: 'refused', message: why.message, fields: { reason: why.reason }, cause: null };
        return {};
      },
    });
    const deletions = (): unknown[] => asked.filter((a) => a.method === 'POST').map((a) => a.body);
    await show(<ShotsView />);
    const remove = page.getByRole('button', { name: 'Delete Kiln lid' });
    await remove.click();
    await expect
      .element(page.getByRole('dialog'))
      .toHaveTextContent(/Delete Kiln lid with its approved caches\?.*Run 4 of this shot is approved/);
    await page.getByRole('button', { name: 'Cancel' }).click();
    expect(deletions()).toEqual([{ sure: false }]);
    await remove.click();
    await page.getByRole('button', { name: 'Delete anyway' }).click();
    await expect.poll(deletions).toEqual([{ sure: false }, { sure: false }, { sure: true }]);
    why = { reason: 'running', message: 'Run 5 of this shot is not over. Cancel it first.' };
    await remove.click();
    await expect.poll(() => useNotice.getState().notice?.text).toBe('Run 5 of this shot is not over. Cancel it first.');
    await expect.element(page.getByRole('dialog')).not.toBeInTheDocument();
  });

  it('a file that is no shot is refused with its place, and what was there stays', async () => {
    const asked = serve({ 'GET /shots': [row()] });
    await show(<ShotsView />);
    await expect.element(rows.nth(1)).toBeVisible();
    const file = new File(
      ['{ "ruddle": 3, "name": "x", "variants": [{ "name": "a", "settings": { "detail": { "voxelSize": -1 } } }] }'],
      'bad.json',
    );
    await userEvent.upload(page.getByLabelText('Shot file').element(), file);
    await expect.element(page.getByRole('alert')).toHaveTextContent(/voxelSize/);
    expect(asked.map((a) => a.method)).toEqual(['GET']);
    await page.getByRole('button', { name: 'Close' }).click();
    await expect.element(page.getByRole('alert')).not.toBeInTheDocument();
  });

  it('a new shot begins as a copy of another when that is chosen', async () => {
    const asked = serve({ 'GET /shots': [row()], 'POST /new-shots': makeShot({ slug: 'kiln-lid-2' }) });
    await show(<ShotsView />);
    await page.getByRole('button', { name: 'New shot' }).click();
    await page.getByRole('textbox', { name: 'Name' }).fill('Kiln lid 2');
    await page.getByRole('combobox', { name: 'Begin with' }).click();
    await page.getByRole('option', { name: /a copy of Kiln lid/ }).click();
    await page.getByRole('button', { name: 'Create' }).click();
    await expect.poll(() => window.location.pathname).toBe('/bench/kiln-lid-2');
    expect(asked.find((a) => a.method === 'POST')!.body).toEqual({ name: 'Kiln lid 2', from: shot.id });
  });

  it('is put in the order of a column whose head is pressed, and back', async () => {
    const named = (id: string, name: string, seconds: number): ShotRowDto =>
      row({ id, fields: { ...shot.fields, name }, runs: [makeRun({ id: `run-${id}`, seconds })] });
    serve({ 'GET /shots': [named('a', 'Flue', 30), named('b', 'Basin', 300), named('c', 'Chute', 3)] });
    await show(<ShotsView />);
    const names = (): string[] =>
      page
        .getByRole('button', { name: /^Open / })
        .elements()
        .map((e) => e.getAttribute('aria-label')!.slice(5));
    await expect.poll(names).toEqual(['Flue', 'Basin', 'Chute']);
    await page.getByRole('button', { name: 'Shot', exact: true }).click();
    await expect.poll(names).toEqual(['Basin', 'Chute', 'Flue']);
    await expect.element(page.getByRole('columnheader', { name: 'Shot' })).toHaveAttribute('aria-sort', 'ascending');
    const time = page.getByRole('button', { name: 'Time', exact: true });
    await time.click();
    await expect.poll(names).toEqual(['Basin', 'Flue', 'Chute']);
    await time.click();
    await expect.poll(names).toEqual(['Chute', 'Flue', 'Basin']);
    await time.click();
    await expect.poll(names).toEqual(['Flue', 'Basin', 'Chute']);
  });

  it('takes a shot file that is dropped on it', async () => {
    const asked = serve({ 'GET /shots': [row()], 'POST /shots': makeShot({ slug: 'dropped' }) });
    await show(<ShotsView />);
    await expect.element(rows.nth(1)).toBeVisible();
    const data = new DataTransfer();
    data.items.add(
      new File([JSON.stringify({ ruddle: SHOT_VERSION, name: 'Dropped', variants: [{ name: 'First', settings: {} }] })], 'dropped.json', {
        type: 'application/json',
      }),
    );
    const at = page.getByRole('table', { name: 'Shots' }).element();
    const drag = (kind: string) => at.dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: data }));
    drag('dragenter');
    await expect.element(page.getByText(/^Drop a shot file/)).toBeVisible();
    drag('drop');
    await expect.poll(() => asked.some((a) => a.method === 'POST')).toBe(true);
    await expect.poll(() => window.location.pathname).toBe('/bench/dropped');
  });
});
