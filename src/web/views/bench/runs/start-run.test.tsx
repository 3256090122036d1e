import { withValue } from '#core/shot';
import type { ReactElement } from 'react';
import { describe, expect, it } from 'vitest';
import { page } from 'vitest/browser';
import type { DetailedPrediction } from '#core/cost';
import { makePassPrediction, makePrediction, makeRun, makeShot } from '#testing/values';
import { type PassState, useSheet } from '#web/state';
import { serve } from '#web/testing';
import { notice, showOnBench } from '../for-tests';
import { useStarter } from './start-run';

const HOURS = 3600;

function Buttons(): ReactElement {
  const { press, starting, dialog } = useStarter();
  return (
    <>
      {(['test', 'final'] as const).map((rung) => (
        <button key={rung} disabled={starting} onClick={() => press(rung)}>
          {rung}
        </button>
      ))}
      {dialog}
    </>
  );
}

const taking = (seconds: number): DetailedPrediction => ({
  ...makePrediction({ time: { low: seconds * 0.7, likely: seconds, high: seconds * 1.5 } }),
  frames: [],
});
const bench = (seconds: number, spent = { seconds: 0, bytes: 0 }, budgets = {}, on: { readonly pass?: PassState } = {}) =>
  showOnBench(<Buttons />, {
    predicted: { test: taking(seconds / 10), final: taking(seconds) },
    spent: { ...spent, ahead: { seconds: 0, bytes: 0, runs: 0 } },
    shot: makeShot({ fields: { budgets } }),
    ...on,
  });
const press = (name: string): Promise<void> => page.getByRole('button', { name, exact: true }).click();
const dialog = page.getByRole('dialog');

describe('starting a run', () => {
  it('that fits its budgets begins at once, with everything that was typed saved before', async () => {
    const order: string[] = [];
    const asked = serve({
      'PUT /variants/variant-1/draft': () => (order.push('saved'), { draft: { revision: 1 }, revision: 1 }),
      'POST /runs': () => (order.push('started'), makeRun({ id: 'run-7', number: 7, state: 'queued' })),
    });
    await bench(60);
    useSheet.getState().editSolve((s) => withValue(s, ['detail', 'voxelSize'], 0.04));
    await press('test');
    await expect.poll(notice).toBe('Test started as run 7.');
    expect(order).toEqual(['saved', 'started']);
    expect(asked.at(-1)!.body).toEqual({ variantId: 'variant-1', rung: 'test', overBudget: false, pass: 'solve' });
    expect(new URLSearchParams(window.location.search).get('run')).toBe('run-7');
  });

  it('that would break the time budget asks first, says by what, and begins when told to', async () => {
    const asked = serve({ 'POST /runs': makeRun({ id: 'run-8', number: 8, rung: 'final' }) });
    await bench(1.5 * HOURS, { seconds: HOURS, bytes: 0 }, { time: 2 * HOURS });
    await press('final');
    await expect
      .element(dialog)
      .toHaveTextContent(/This Final would break a budget.*1 h 30 min.*1 h 3 min–2 h 15 min.*The time budget would be broken/);
    expect(asked).toEqual([]);
    await press('Start anyway');
    await expect.poll(() => asked.map((a) => a.body)).toEqual([{ variantId: 'variant-1', rung: 'final', overBudget: true, pass: 'solve' }]);
  });

  it('that fits the budget alone, but not beside what the shot has spent, asks too', async () => {
    const asked = serve({});
    // Ten minutes, of a budget of an hour of which 55 minutes are spent.
    await bench(100 * 60, { seconds: 55 * 60, bytes: 0 }, { time: HOURS });
    await press('test');
    await expect.element(dialog).toHaveTextContent('This Test would break a budget');
    expect(asked).toEqual([]);
  });

  it('of a pass: what the server refuses for its budget is asked about, with what the pass would cost', async () => {
    const pass = {
      id: 'ash',
      kind: 'particles',
      name: 'Ash',
      enabled: true,
      run: null,
      state: 'missing',
      fresh: { test: false, final: false },
      because: null,
      problem: null,
      reads: 'vdb',
      voxelSize: { test: null, final: null },
      spacing: { test: null, final: null },
      test: makePassPrediction({ seconds: 90, bytes: 3e9 }),
      final: null,
    } as const;
    const asked = serve({
      'POST /runs': ({ body }: { body: { overBudget: boolean } }) => {
        if (body.overBudget) return makeRun({ id: 'run-9', number: 9 });
        // eslint-disable-next-line @typescript-eslint/only-throw-error -- an answer of the server, not an error of this page
        throw { tag: 'over-budget', message: 'It would break the budget of disk.', fields: { what: ['disk'] }, cause: null };
      },
    });
    await bench(60, undefined, undefined, { pass });
    await press('test');
    await expect
      .element(dialog)
      .toHaveTextContent(/This Test of Ash would break a budget.*Disk\s*3 GB.*It would break the budget of disk\./);
    await press('Start anyway');
    await expect
      .poll(() => asked.map((a) => a.body))
      .toEqual([
        { variantId: 'variant-1', rung: 'test', overBudget: false, pass: 'ash' },
        { variantId: 'variant-1', rung: 'test', overBudget: true, pass: 'ash' },
      ]);
  });

  it('that takes long is asked about, and a Cancel starts nothing', async () => {
    const asked = serve({});
    await bench(1.5 * HOURS, undefined, { time: 10 * HOURS });
    await press('final');
    await expect.element(dialog).toHaveTextContent('Start a long Final?');
    await press('Cancel');
    await expect.element(dialog).not.toBeInTheDocument();
    expect(asked).toEqual([]);
    // A Test of the same length is not: only a Final is left alone for hours.
    await press('test');
    await expect.poll(() => asked.length).toBe(1);
  });

  it('asks when the server knows of a budget that the page did not', async () => {
    serve({
      'POST /runs': ({ body }: { body: { overBudget: boolean } }) => {
        if (body.overBudget) return makeRun({ number: 9 });
        // eslint-disable-next-line @typescript-eslint/only-throw-error -- an answer of the server, not an error of this page
        throw { tag: 'over-budget', message: 'The disk budget would be broken.', fields: {}, cause: null };
      },
    });
    await bench(60);
    await press('test');
    await expect.element(dialog).toHaveTextContent(/This Test would break a budget.*The disk budget would be broken\./);
    await press('Start anyway');
    await expect.poll(notice).toBe('Test started as run 9.');
  });

  it('says why it could not', async () => {
    serve({});
    await bench(60);
    await press('test');
    await expect.poll(notice).toBe('nothing stands in for POST /runs');
    await expect.element(page.getByRole('button', { name: 'test' })).toBeEnabled();
  });
});
