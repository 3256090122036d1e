import { describe, expect, it } from 'vitest';
import { page } from 'vitest/browser';
import { makeRow, makeRun } from '#testing/values';
import { useNotice } from '#web/state';
import { serve, show } from '#web/testing';
import { CleanUpButton } from './clean-up-button';

const button = (name: string | RegExp) => page.getByRole('button', { name, exact: true });
const box = (name: string) => page.getByRole('checkbox', { name });

describe('cleaning up', () => {
  it('lists what caches take and how long computing them again takes, and frees what is picked, with a way back', async () => {
    const runs = [
      makeRun({ id: 'old', number: 1, bytes: 3e9, seconds: 600 }),
      makeRun({ id: 'new', number: 2, bytes: 1e9, seconds: 300 }),
      makeRun({ id: 'cut', number: 3, state: 'cancelled', framesDone: 3, bytes: 5e8, seconds: 60 }),
    ];
    const answers = Object.fromEntries(runs.flatMap((r) => ['free', 'restore'].map((what) => [`POST /runs/${r.id}/${what}`, r])));
    const asked = serve(answers);
    await show(<CleanUpButton shots={[makeRow({ runs })]} />);
    await button('Clean up').click();
    await expect.element(page.getByRole('dialog')).toHaveTextContent(/4\.5 GB in 3 runs/);
    const rows = page.getByRole('table', { name: 'Caches' }).getByRole('row');
    await expect.element(rows.nth(1)).toHaveTextContent(/run 3cancelled500 MB1 min/);
    await expect.element(rows.nth(2)).toHaveTextContent(/run 1run 2 is newer3 GB10 min/);
    await expect.element(rows.nth(3)).toHaveTextContent(/run 2the newest1 GB5 min/);
    await expect.element(button('Free')).toBeDisabled();
    await box('Kiln lid, Test · run 3').click();
    await rows.nth(2).click();
    await button('Free 3.5 GB').click();
    await expect.poll(() => asked.map((a) => a.path)).toEqual(['/runs/cut/free', '/runs/old/free']);
    await expect.poll(() => useNotice.getState().notice?.text).toBe('2 runs are freed: 3.5 GB.');
    useNotice.getState().notice?.action?.run();
    await expect.poll(() => asked.map((a) => a.path).slice(2)).toEqual(['/runs/cut/restore', '/runs/old/restore']);
  });

  it('frees all that can be, with a way back, where one is refused; runs before those that they read', async () => {
    const runs = [1, 2, 3].map((number) => makeRun({ id: `r${String(number)}`, number, bytes: 1e9 }));
    const asked = serve({
      'POST /runs/r3/free': runs[2],
      'POST /runs/r2/free': () => {
        // eslint-disable-next-line @typescript-eslint/only-throw-error -- an answer of the server, not an error of this page
        throw { tag: 'refused', message: 'A run that is not finished cannot be freed.', fields: { reason: 'running' }, cause: null };
      },
      'POST /runs/r1/free': runs[0],
      'POST /runs/r1/restore': runs[0],
      'POST /runs/r3/restore': runs[2],
    });
    await show(<CleanUpButton shots={[makeRow({ runs })]} />);
    await button('Clean up').click();
    for (const n of [1, 2, 3]) await box(`Kiln lid, Test · run ${String(n)}`).click();
    await button('Free 3 GB').click();
    await expect
      .poll(() => useNotice.getState().notice?.text)
      .toBe('2 runs are freed: 2 GB.\nRun 2 is not: A run that is not finished cannot be freed.');
    expect(asked.map((a) => a.path)).toEqual(['/runs/r3/free', '/runs/r2/free', '/runs/r1/free']);
    useNotice.getState().notice?.action?.run();
    await expect.poll(() => asked.map((a) => a.path).slice(3)).toEqual(['/runs/r3/restore', '/runs/r1/restore']);
  });

  it('asks once more for what is approved', async () => {
    const run = makeRun({ id: 'kept', approved: true });
    const asked = serve({ 'POST /runs/kept/free': run });
    await show(<CleanUpButton shots={[makeRow({ runs: [run] })]} />);
    await button('Clean up').click();
    await box('Kiln lid, Test · run 1').click();
    await button(/^Free \d/).click();
    await expect.element(page.getByText('This run is approved')).toBeVisible();
    expect(asked).toEqual([]);
    await button('Free anyway').click();
    await expect.poll(() => asked.map((a) => a.body)).toEqual([{ sure: true }]);
  });

  it('says when there is nothing to free', async () => {
    await show(<CleanUpButton shots={[]} />);
    await button('Clean up').click();
    await expect.element(page.getByText('No caches')).toBeVisible();
  });
});
