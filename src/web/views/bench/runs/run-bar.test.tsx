import { describe, expect, it } from 'vitest';
import { withValue, gasSolveOf } from '#core/shot';
import { page } from 'vitest/browser';
import type { RunDto } from '#protocol';
import { makeRun, makeShot } from '#testing/values';
import { useNotice, useSheet } from '#web/state';
import { type Asked, serve } from '#web/testing';
import { notice, showOnBench } from '../for-tests';
import { RunBar } from './run-bar';

type State = Parameters<typeof RunBar>[0]['state'];

const bar = async (
  run: RunDto | null,
  state: State['state'] = 'fresh',
  differences: State['differences'] = [],
  left: number | null = null,
) =>
  await showOnBench(<RunBar state={{ state, differences }} secondsLeft={left} />, {
    run,
    shot: makeShot(run ? { runs: [run] } : {}),
  });
const said = page.getByTestId('run-state');
const button = (name: string): ReturnType<typeof page.getByRole> => page.getByRole('button', { name, exact: true });
const calls = (asked: readonly Asked[]): string[] => asked.map((a) => `${a.method} ${a.path}`);

describe('the run that is looked at', () => {
  it('says what to start when there is none', async () => {
    await bar(null);
    await expect.element(page.getByText(/Nothing computed for First/)).toBeVisible();
  });

  it.each([
    [makeRun({ state: 'queued', framesDone: 0 }), 'missing', 'queued'],
    [makeRun({ state: 'running', framesDone: 7 }), 'partial', 'computing, 7 of 24'],
    [makeRun(), 'fresh', 'fresh'],
    [makeRun({ state: 'cancelled', framesDone: 9 }), 'partial', 'cancelled, 9 of 24'],
    [makeRun({ damagedFrames: 2, missingFrames: 1 }), 'damaged', '2 damaged, 1 missing'],
  ] as const)('in state %#', async (run, state, text) => {
    await bar(run, state);
    await expect.element(said).toHaveTextContent(text);
  });

  it('says how long it will take while it computes, and is cancelled by a press', async () => {
    const run = makeRun({ state: 'running', framesDone: 7 });
    const asked = serve({ 'POST /runs/run-1/cancel': run });
    await bar(run, 'partial', [], 120);
    await expect.element(said).toHaveTextContent(/2 min left, done \d/);
    await button('Cancel').click();
    expect(calls(asked)).toEqual(['POST /runs/run-1/cancel']);
    // What computes is neither freed nor checked.
    await expect.element(button("Free this run's cache")).not.toBeInTheDocument();
    await expect.element(button("Check this run's files")).not.toBeInTheDocument();
  });

  it.each([
    [makeRun({ state: 'cancelled', framesDone: 9 }), 'partial', 'Continue'],
    [makeRun({ state: 'interrupted', framesDone: 0 }), 'missing', 'Try again'],
    [
      makeRun({ state: 'failed', framesDone: 9, error: { tag: 'disk-full', message: 'Full.', fields: {}, cause: null } }),
      'partial',
      'Continue',
    ],
    [makeRun({ damagedFrames: 2 }), 'damaged', 'Repair'],
  ] as const)('what is missing of it is computed by a press %#', async (run, state, title) => {
    const asked = serve({ 'POST /runs/run-1/continue': run });
    await bar(run, state);
    await button(title).click();
    expect(calls(asked)).toEqual(['POST /runs/run-1/continue']);
    // No further than its own last frame.
    expect(asked[0]!.body).toEqual({});
  });

  it.each([
    [null, 'Extend', false],
    ["It would break the shot's budget of disk of 1 GB: about 2 GB are needed.", 'Extend anyway', true],
  ] as const)(
    'is extended to the end of a longer range when that was agreed to, with what it costs: %#',
    async (breaks, title, overBudget) => {
      const time = { low: 60, likely: 90, high: 120 };
      const bytes = { low: 1e9, likely: 2e9, high: 3e9 };
      const run = makeRun({ plan: { options: { lastFrame: 20 } }, framesDone: 20 });
      const asked = serve({
        'GET /runs/run-1/longer': { lastFrame: 24, frames: 4, time, disk: bytes, memory: bytes, breaks },
        'POST /runs/run-1/continue': run,
      });
      await bar(run, 'partial');
      await button('Extend to frame 24 …').click();
      const dialog = page.getByRole('dialog');
      await expect.element(dialog).toHaveTextContent(/Extend run 1 to frame 24\?.*4 frames are computed.*Time\s*1.*2 min.*Disk\s*1.*3 GB/);
      if (breaks !== null) await expect.element(dialog).toHaveTextContent(breaks);
      expect(calls(asked)).toEqual(['GET /runs/run-1/longer']);
      await button(title).click();
      await expect.poll(() => asked.at(-1)).toMatchObject({ path: '/runs/run-1/continue', body: { longer: true, overBudget } });
      await expect.element(dialog).not.toBeInTheDocument();
    },
  );

  it('paused, says what it needs; it can be continued at once, or cancelled', async () => {
    const error = { tag: 'disk-full', message: 'The disk is full: about 2 GB more are needed.', fields: {}, cause: null } as const;
    const run = makeRun({ state: 'paused', framesDone: 9, error });
    const asked = serve({ 'POST /runs/run-1/continue': run, 'POST /runs/run-1/cancel': run });
    await bar(run, 'partial');
    await expect.element(said).toHaveTextContent('paused, 9 of 24');
    await expect.element(page.getByRole('alert')).toHaveTextContent(/^The disk is full: about 2 GB more are needed\.$/);
    await expect.element(button("Free this run's cache")).not.toBeInTheDocument();
    await button('Continue').click();
    await button('Cancel').click();
    expect(calls(asked)).toEqual(['POST /runs/run-1/continue', 'POST /runs/run-1/cancel']);
  });

  it('is not gone on with where nothing is missing, it is freed, or it would end the same way', async () => {
    const broke = { tag: 'not-finite', message: 'Unstable.', fields: {}, cause: null } as const;
    for (const run of [
      makeRun(),
      makeRun({ state: 'cancelled', framesDone: 9, freed: true }),
      makeRun({ state: 'failed', error: broke }),
    ]) {
      await bar(run);
      for (const title of ['Continue', 'Repair', 'Try again']) await expect.element(button(title)).not.toBeInTheDocument();
    }
  });

  it('says in which settings a stale run differs', async () => {
    await bar(makeRun(), 'stale', [{ path: 'detail.voxelSize', from: 0.05, to: 0.04 }]);
    await expect.element(page.getByTestId('stale')).toHaveTextContent(/0\.05.*0\.04/);
    await bar(makeRun(), 'stale', []);
    await expect.element(page.getByTestId('stale').last()).toHaveTextContent("The shot's frames or the solver changed since.");
  });

  it('shows what ended a failed run, and that its frames are whole', async () => {
    await bar(
      makeRun({
        state: 'failed',
        framesDone: 5,
        error: { tag: 'disk-full', message: 'The disk is full at frame 6.', fields: {}, cause: null },
      }),
      'failed',
    );
    await expect.element(page.getByRole('alert')).toHaveTextContent('The disk is full at frame 6. Frames before it are whole.');
  });

  it('frees the cache with a way back, and offers that way while there is one', async () => {
    const asked = serve({ 'POST /runs/run-1/free': makeRun({ freed: true }), 'POST /runs/run-1/restore': makeRun() });
    await bar(makeRun());
    await button("Free this run's cache").click();
    await expect.poll(notice).toBe('Run 1 is freed: 48 MB.');
    useNotice.getState().notice?.action?.run();
    await expect.poll(() => calls(asked)).toEqual(['POST /runs/run-1/free', 'POST /runs/run-1/restore']);
  });

  it('brings back a freed run while that can be done', async () => {
    const asked = serve({ 'POST /runs/run-1/restore': makeRun() });
    await bar(makeRun({ freed: true, restorable: true }), 'missing');
    await button('Bring back').click();
    expect(calls(asked)).toEqual(['POST /runs/run-1/restore']);
  });

  it.each([
    [{ files: 24, damaged: [], missing: [], unreadable: [], foreign: [] }, 'Run 1: all 24 files are as they were written.'],
    [
      { files: 24, damaged: [], missing: [], unreadable: [], foreign: ['a.txt'] },
      'Run 1: all 24 files are as they were written. Not of this run: a.txt.',
    ],
    [{ files: 24, damaged: [3, 9], missing: [12], unreadable: [], foreign: [] }, 'Run 1: frames 3, 9 are damaged; frame 12 is missing.'],
    [{ files: 24, damaged: [], missing: [], unreadable: [4], foreign: [] }, 'Run 1: frame 4 is unreadable now.'],
  ])('checks its files and says what was found: %#', async (found, text) => {
    serve({ 'POST /runs/run-1/verify': found });
    await bar(makeRun());
    await button("Check this run's files").click();
    await expect.poll(notice).toBe(text);
  });

  it('says what the server refuses', async () => {
    serve({
      'POST /runs/run-1/free': () => {
        // eslint-disable-next-line @typescript-eslint/only-throw-error -- an answer of the server, not an error of this page
        throw { tag: 'conflict', message: 'The run is being read.', fields: {}, cause: null };
      },
    });
    await bar(makeRun());
    await button("Free this run's cache").click();
    await expect.poll(notice).toBe('The run is being read.');
  });

  it('approved, it is freed only after asking once more', async () => {
    const run = makeRun({ approved: true });
    const asked = serve({ 'PUT /runs/run-1/approved': run, 'POST /runs/run-1/free': run });
    await bar(run);
    await expect.element(button('Approve this run')).toHaveAttribute('aria-pressed', 'true');
    await button('Approve this run').click();
    expect(asked.at(-1)!.body).toEqual({ approved: false });
    await button("Free this run's cache").click();
    await expect.element(page.getByRole('dialog')).toHaveTextContent(/This run is approved.*Test · run 1.*can be brought back/);
    await button('Cancel').click();
    await button("Free this run's cache").click();
    await button('Free anyway').click();
    await expect.poll(() => calls(asked)).toEqual(['PUT /runs/run-1/approved', 'POST /runs/run-1/free']);
    expect(asked.at(-1)!.body).toEqual({ sure: true });
  });

  it('what another run reads is freed only after asking once more, with who reads it', async () => {
    const asked = serve({
      'POST /runs/run-1/free': ({ body }: Asked) => {
        if ((body as { sure: boolean }).sure) return makeRun({ freed: true });
        // eslint-disable-next-line @typescript-eslint/only-throw-error -- an answer of the server, not an error of this page
        throw { tag: 'refused', message: 'Run 2 (coarse) reads it and is kept.', fields: { reason: 'read' }, cause: null };
      },
    });
    await bar(makeRun());
    await button("Free this run's cache").click();
    await expect.element(page.getByRole('dialog')).toHaveTextContent(/Another run reads it.*Run 2 \(coarse\) reads it and is kept/);
    await button('Free anyway').click();
    await expect.poll(() => asked.map((a) => a.body)).toEqual([{ sure: false }, { sure: true }]);
    await expect.poll(notice).toMatch(/Run 1 is freed/);
  });

  it('puts the settings of its run on the sheet, as one edit; not when they are there', async () => {
    await bar(makeRun());
    const take = button("Put this run's settings on the sheet");
    await expect.element(take).not.toBeInTheDocument();
    useSheet.getState().editSolve((s) => withValue(s, ['detail', 'voxelSize'], 0.3));
    await take.click();
    expect(gasSolveOf(useSheet.getState().settings).detail.voxelSize).toBe(0.05);
    await expect.element(take).not.toBeInTheDocument();
    useSheet.getState().stepBack();
    expect(gasSolveOf(useSheet.getState().settings).detail.voxelSize).toBe(0.3);
  });

  it('keeps a note when it is closed, and only when it is another', async () => {
    const asked = serve({ 'PUT /runs/run-1/notes': makeRun() });
    await bar(makeRun({ notes: 'Too thin.' }));
    await button('Note about this run').click();
    await page.getByRole('textbox', { name: 'Note' }).fill('Too thin above the lid.');
    page
      .getByRole('presentation')
      .element()
      .firstElementChild!.dispatchEvent(new MouseEvent('click', { bubbles: true }));
    await expect.poll(() => asked.map((a) => a.body)).toEqual([{ notes: 'Too thin above the lid.' }]);
  });

  it('another run is chosen with its variant', async () => {
    const [one, two] = [makeRun(), makeRun({ id: 'run-2', number: 2, rung: 'final', framesDone: 3, state: 'cancelled' })];
    await showOnBench(<RunBar state={{ state: 'fresh', differences: [] }} secondsLeft={null} />, {
      run: one,
      shot: makeShot({ runs: [one, two] }),
    });
    await button('Choose a run').click();
    await page.getByRole('menuitem', { name: /Final · run 2.*3\/24/ }).click();
    expect(new URLSearchParams(window.location.search).get('run')).toBe('run-2');
    expect(new URLSearchParams(window.location.search).get('variant')).toBe('variant-1');
  });
});
