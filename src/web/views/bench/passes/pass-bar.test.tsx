import { describe, expect, it } from 'vitest';
import { page } from 'vitest/browser';
import { solveOf } from '#core/shot';
import type { PassRunDto } from '#protocol';
import { makePassRun, makeRun, makeShot, settingsOf } from '#testing/values';
import type { PassState } from '#web/state';
import { serve } from '#web/testing';
import { showOnBench } from '../for-tests';
import { PassBar } from './pass-bar';

const settings = settingsOf(solveOf(makeShot().variants[0]!.settings), [{ id: 'coarse', kind: 'resample', name: 'Coarse' }]);
const passRun = (changes: Partial<PassRunDto> = {}): PassRunDto => makePassRun(settings, 'coarse', changes);
const error = (message: string) => ({ tag: 'refused', message, fields: { reason: 'input' }, cause: null }) as const;

async function bar(
  run: PassRunDto | null,
  state: PassState['state'] = 'fresh',
  solve = makeRun(),
  problem: string | null = null,
): Promise<void> {
  const pass: PassState = {
    id: 'coarse',
    kind: 'resample',
    name: 'Coarse',
    enabled: true,
    run,
    state,
    fresh: { test: false, final: false },
    because: null,
    problem,
    reads: 'vdb',
    voxelSize: { test: null, final: null },
    spacing: { test: null, final: null },
    test: null,
    final: null,
  };
  await showOnBench(<PassBar pass={pass} run={run} />, {
    shot: makeShot({ runs: [solve], passRuns: run ? [run] : [] }),
    passes: [pass],
    pass,
  });
}
const said = page.getByTestId('run-state');
const button = (name: string): ReturnType<typeof page.getByRole> => page.getByRole('button', { name, exact: true });

describe('the run of a pass', () => {
  it('says what to do when there is none', async () => {
    await bar(null, 'missing');
    await expect.element(page.getByText(/Coarse is not computed yet\. Start its Test or its Final above/)).toBeVisible();
  });

  it('says why there can be none', async () => {
    await bar(null, 'missing', makeRun(), 'It needs velocity.');
    await expect.element(page.getByText('Coarse cannot be computed. It needs velocity.')).toBeVisible();
  });

  it.each([
    [passRun(), 'fresh', makeRun(), /^fresh, 24 s$/],
    [passRun({ state: 'running', framesDone: 7 }), 'partial', makeRun(), /^computing, 7 of 24$/],
    [passRun({ state: 'queued', framesDone: 0 }), 'missing', makeRun({ state: 'running' }), /^waits for run 1$/],
    [passRun({ state: 'cancelled', framesDone: 9 }), 'partial', makeRun(), /^cancelled, 9 of 24$/],
    [passRun({ damagedFrames: 2, missingFrames: 1 }), 'damaged', makeRun(), /^2 damaged, 1 missing$/],
  ] as const)('in state %#', async (run, state, solve, text) => {
    await bar(run, state, solve);
    await expect.element(said).toHaveTextContent(text);
  });

  it.each([
    [passRun({ state: 'running', framesDone: 7 }), 'Cancel', 'POST /runs/run-coarse/cancel'],
    [passRun({ state: 'cancelled', framesDone: 9 }), 'Continue', 'POST /runs/run-coarse/continue'],
    [
      passRun({ state: 'failed', framesDone: 0, error: error('Run 1, which it reads, is freed: bring it back first.') }),
      'Try again',
      'POST /runs/run-coarse/continue',
    ],
    [passRun({ damagedFrames: 2 }), 'Repair', 'POST /runs/run-coarse/continue'],
    [passRun({ freed: true, restorable: true }), 'Bring back', 'POST /runs/run-coarse/restore'],
  ])('offers what can be done: %#', async (run, name, call) => {
    const asked = serve({ [call]: run });
    await bar(run, 'partial');
    if (run.error) await expect.element(page.getByRole('alert')).toHaveTextContent(run.error.message);
    await button(name).click();
    expect(asked.map((a) => `${a.method} ${a.path}`)).toEqual([call]);
  });

  it('is extended only where what it reads has more frames by now, and only when that was agreed to', async () => {
    const run = passRun({ inputs: ['run-1'] });
    await bar(run, 'fresh', makeRun({ id: 'run-1' }));
    await expect.element(button('Extend …')).not.toBeInTheDocument();
    const asked = serve({
      'GET /runs/run-coarse/longer': { lastFrame: 30, frames: 1, time: null, disk: null, memory: null, breaks: null },
      'POST /runs/run-coarse/continue': run,
    });
    await bar(run, 'fresh', makeRun({ id: 'run-1', plan: { options: { lastFrame: 30 } } }));
    await button('Extend …').click();
    await expect.element(page.getByRole('dialog')).toHaveTextContent(/to frame 30\?.*1 frame is computed.*Time\s*not known yet/);
    await button('Extend').click();
    await expect.poll(() => asked.at(-1)).toMatchObject({ path: '/runs/run-coarse/continue', body: { longer: true, overBudget: false } });
  });
});
