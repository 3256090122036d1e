import { beforeEach, describe, expect, it, vi } from 'vitest';
import { page } from 'vitest/browser';
import { makeShot } from '#testing/values';
import { queryClient, useSheet } from '#web/state';
import { serve, show } from '#web/testing';
import { BenchView } from './bench-view';

// What a Bench draws has tests of its own.
vi.mock('./bench', () => ({ Bench: () => <p>The Bench of {useSheet.getState().fields.name}</p> }));

const shot = makeShot();
let broken = false;
beforeEach(() => {
  broken = false;
  queryClient.clear();
  serve({
    [`GET /shots/${shot.slug}`]: () => {
      // eslint-disable-next-line @typescript-eslint/only-throw-error -- an answer of the server, not an error of this page
      if (broken) throw { tag: 'storage', message: 'The database is locked.', fields: {}, cause: null };
      return shot;
    },
  });
});
const bench = page.getByText('The Bench of Kiln lid');

describe('the Bench of a shot', () => {
  it('that cannot be had says why, and opens when it can be', async () => {
    broken = true;
    await show(<BenchView slug={shot.slug} />);
    await expect.element(page.getByText('This shot cannot be opened')).toBeVisible();
    broken = false;
    await page.getByRole('button', { name: 'Try again' }).click();
    await expect.element(bench).toBeVisible();
  });

  it('stays, with every edit, when the next answer fails; and says so until one comes', async () => {
    await show(<BenchView slug={shot.slug} />);
    await expect.element(bench).toBeVisible();
    const element = bench.element();
    broken = true;
    await queryClient.invalidateQueries({ queryKey: ['shot'] });
    const alert = page.getByRole('alert');
    await expect.element(alert).toHaveTextContent(/could not be fetched: The database is locked\. This page may be out of date\./);
    expect(bench.element()).toBe(element);
    broken = false;
    await page.getByRole('button', { name: 'Try again' }).click();
    await expect.element(alert).not.toBeInTheDocument();
    expect(bench.element()).toBe(element);
  });
});
