import { beforeEach, describe, expect, it } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { followersOf, solveOf } from '#core/shot';
import { makePassPrediction, makeRun, makeShot, settingsOf } from '#testing/values';
import { type PassState, navigate } from '#web/state';
import { passesOnSheet, showOnBench } from '../for-tests';
import { PassSheet } from './pass-sheet';

const settings = settingsOf(solveOf(makeShot().variants[0]!.settings), [
  { id: 'coarse', kind: 'resample', name: 'Coarse' },
  { id: 'sparks', kind: 'particles', name: 'Sparks' },
]);
const base: PassState = {
  id: 'coarse',
  kind: 'resample',
  name: 'Coarse',
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
const cost = makePassPrediction();

async function sheetOf(changes: Partial<PassState> = {}): Promise<void> {
  const pass = { ...base, ...changes };
  const shot = makeShot();
  await showOnBench(<PassSheet pass={pass} />, {
    shot: { ...shot, variants: [{ ...shot.variants[0]!, settings }], runs: [makeRun()] },
    passes: [{ ...base, id: 'solve', kind: 'gas', name: 'Solve' }, pass],
    pass,
  });
}
const note = () => page.getByRole('note', { name: 'What a change makes stale' });
const choose = async (select: string, option: RegExp): Promise<void> => {
  await page.getByRole('combobox', { name: select, exact: true }).click();
  await page.getByRole('option', { name: option }).click();
};

beforeEach(() => {
  navigate({ pass: 'coarse' });
});

describe("a pass's sheet", () => {
  it('sets what its kind has to be set, with the limits of its schema', async () => {
    await sheetOf();
    const field = page.getByRole('textbox', { name: 'Voxel factor' });
    await field.fill('3');
    await userEvent.keyboard('{Enter}');
    expect(passesOnSheet()[0]).toMatchObject({ settings: { voxelFactor: 3 } });
    await page.getByRole('switch', { name: 'Temperature' }).click();
    expect(passesOnSheet()[0]).toMatchObject({ settings: { temperature: false } });
    // The box around what is there, to begin with.
    await page.getByRole('button', { name: 'Crop box: set' }).click();
    expect(passesOnSheet()[0]).toMatchObject({ settings: { crop: { min: expect.any(Array) as number[] } } });
  });

  it('chooses what it reads, at which rung, and pins a run', async () => {
    await sheetOf({ id: 'sparks', kind: 'particles', name: 'Sparks' });
    await choose('At', /^Test$/);
    expect(passesOnSheet()[1]!.input).toEqual({ pass: 'solve', rung: 'test', run: null, folder: null });
    await choose('Run', /Test · run 1/);
    expect(passesOnSheet()[1]!.input.run).toBe('run-1');
    await choose('Reads', /Coarse/);
    expect(passesOnSheet()[1]!.input).toMatchObject({ pass: 'coarse', run: null });
    await choose('Born on', /Fire bed/);
    expect(passesOnSheet()[1]).toMatchObject({ settings: { source: 'Fire bed' } });
    await choose('Born on', /every source/);
    expect(passesOnSheet()[1]).toMatchObject({ settings: { source: null } });
  });

  it('of a refill chooses the particles and the velocity apart, and shows what counts for how they are born', async () => {
    const shot = makeShot();
    const spray = { id: 'spray', kind: 'refill', name: 'Spray', input: { pass: 'sparks' } };
    const own = settingsOf(solveOf(settings), [...followersOf(settings), spray]);
    const pass: PassState = { ...base, id: 'spray', kind: 'refill', name: 'Spray', reads: 'ply' };
    await showOnBench(<PassSheet pass={pass} />, {
      shot: { ...shot, variants: [{ ...shot.variants[0]!, settings: own }], runs: [makeRun()] },
      passes: [pass],
      pass,
    });
    await choose('Velocity', /Coarse/);
    await choose('Velocity at', /^Test$/);
    expect(passesOnSheet()[2]).toMatchObject({ input: { pass: 'sparks', rung: 'same' }, velocity: { pass: 'coarse', rung: 'test' } });
    await expect.element(page.getByRole('textbox', { name: 'Born a second' })).toBeVisible();
    await expect.element(page.getByRole('textbox', { name: 'Born around each' })).not.toBeInTheDocument();
    await choose('Born', /When it is new/);
    await expect.element(page.getByRole('textbox', { name: 'Born around each' })).toBeVisible();
    await expect.element(page.getByRole('textbox', { name: 'Born a second' })).not.toBeInTheDocument();
  });

  it('reads a folder instead, and a pass again', async () => {
    await sheetOf();
    await choose('Reads', /A folder of files/);
    await page.getByRole('textbox', { name: 'Folder of the files' }).fill('/caches/cloud');
    await userEvent.keyboard('{Enter}');
    expect(passesOnSheet()[0]!.input).toMatchObject({ folder: '/caches/cloud', run: null });
    await expect.element(page.getByRole('combobox', { name: 'Run' })).not.toBeInTheDocument();
    await choose('Reads', /^Solve$/);
    expect(passesOnSheet()[0]!.input).toEqual({ pass: 'solve', rung: 'same', run: null, folder: null });
  });

  it('is renamed, switched off, and taken out', async () => {
    await sheetOf();
    await page.getByRole('textbox', { name: 'Name of the pass' }).fill('Handover');
    await userEvent.keyboard('{Enter}');
    expect(passesOnSheet()[0]!.name).toBe('Handover');
    await page.getByRole('switch', { name: 'On' }).click();
    expect(passesOnSheet()[0]!.enabled).toBe(false);
    await page.getByRole('button', { name: 'Take out' }).click();
    expect(passesOnSheet().map((p) => p.id)).toEqual(['sparks']);
    expect(new URL(window.location.href).searchParams.get('pass')).toBeNull();
  });

  it.each([
    ['vdb', ['Extinction', 'Flame light', 'Step'], 'Point radius'],
    ['ply', ['Point radius'], 'Extinction'],
  ] as const)('of stills that read %s has what counts for them', async (reads, there, idle) => {
    const shot = makeShot();
    const look = { id: 'look', kind: 'stills', name: 'Look' };
    const own = settingsOf(solveOf(settings), [...followersOf(settings), look]);
    const pass: PassState = { ...base, id: 'look', kind: 'stills', name: 'Look', reads };
    await showOnBench(<PassSheet pass={pass} />, {
      shot: { ...shot, variants: [{ ...shot.variants[0]!, settings: own }] },
      passes: [pass],
      pass,
    });
    for (const name of there) await expect.element(page.getByText(name, { exact: true })).toBeVisible();
    await expect.element(page.getByText(idle, { exact: true })).not.toBeInTheDocument();
  });

  it('says before a change what it makes stale and what that costs again', async () => {
    await sheetOf({ state: 'fresh', fresh: { test: true, final: true }, test: cost, final: makePassPrediction({ seconds: 60 }) });
    await expect.element(note()).toHaveTextContent('A change makes stale: Coarse (Test and Final). Again: about 1 min, 6 MB.');
  });

  it('says nothing of it where nothing is whole', async () => {
    await sheetOf({ test: cost });
    await expect.element(page.getByRole('button', { name: 'Take out' })).toBeVisible();
    await expect.element(note()).not.toBeInTheDocument();
  });

  it('says why it is stale or cannot be, and what it would cost with what it reads', async () => {
    await sheetOf({
      state: 'stale',
      because: 'Solve, which it reads, has other settings',
      problem: 'It needs velocity.',
      test: cost,
      final: makePassPrediction({ seconds: 60, from: 'nothing' }),
    });
    await expect
      .element(page.getByTestId('stale-because'))
      .toHaveTextContent('Stale because of Solve, which it reads, has other settings.');
    await expect.element(page.getByRole('alert')).toHaveTextContent('It needs velocity.');
    await expect
      .element(page.getByTestId('pass-costs'))
      .toHaveTextContent(/Test\s*9.6–15 s\s*2.4–3.8 MB\s*80–125 MB\s*after 10 s for what it reads/);
    await expect.element(page.getByTestId('pass-costs')).toHaveTextContent(/Final\s*48 s–1 min/);
  });
});
