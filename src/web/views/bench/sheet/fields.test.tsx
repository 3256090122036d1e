import type * as z from 'zod';
import { describe, expect, it } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { withValue, inner, solveSchema, sourceSchema, gasSolveOf } from '#core/shot';
import { makeShot, withGroups } from '#testing/values';
import { useSheet } from '#web/state';
import { Fields } from './fields';
import { notice, sheet, showOnBench } from '../for-tests';

const group = (name: 'detail' | 'stepping' | 'matter' | 'forces' | 'bounds' | 'keep'): z.ZodObject =>
  inner(solveSchema.shape[name]) as z.ZodObject;
const field = (label: string): ReturnType<typeof page.getByRole> => page.getByRole('textbox', { name: label });

describe('fields of the sheet, from their schema', () => {
  it('a number that is typed is an edit of its own path, and can be put back to its default', async () => {
    await showOnBench(<Fields schema={group('stepping')} path={['stepping']} />);
    const before = sheet().stepping;
    await field('CFL number').fill('1.5');
    await userEvent.keyboard('{Enter}');
    expect(sheet().stepping).toEqual({ ...before, cfl: 1.5 });
    await page.getByRole('button', { name: 'CFL number: back to the default' }).click();
    expect(sheet().stepping).toEqual(before);
    await expect.element(page.getByRole('button', { name: 'CFL number: back to the default' })).not.toBeInTheDocument();
  });

  it('what goes against another setting is refused and said, the sheet stays', async () => {
    await showOnBench(<Fields schema={group('stepping')} path={['stepping']} />);
    const before = sheet().stepping;
    await field('Fewest substeps').fill('64');
    await userEvent.keyboard('{Enter}');
    expect(sheet().stepping).toEqual(before);
    expect(notice()).toMatch(/^Not changed: /);
  });

  it('a vector has three fields, each a part of it', async () => {
    await showOnBench(<Fields schema={group('forces')} path={['forces']} skip={['fields', 'moves']} />);
    await field('Wind y, m/s').fill('2');
    await userEvent.keyboard('{Enter}');
    expect(sheet().forces.wind).toEqual([0, 2, 0]);
  });

  it('a wall is closed and opened by a click on the unfolded box', async () => {
    await showOnBench(<Fields schema={group('bounds')} path={['bounds']} />);
    const before = sheet().bounds.walls;
    const floor = page.getByRole('button', { name: /^Floor/ });
    await expect.element(floor).toHaveAttribute('aria-pressed', String(before.floor === 'closed'));
    await floor.click();
    expect(sheet().bounds.walls).toEqual({ ...before, floor: before.floor === 'closed' ? 'open' : 'closed' });
    await page.getByRole('button', { name: /^Ceiling/ }).click();
    await floor.click();
    expect(sheet().bounds.walls).toEqual({ ...before, ceiling: before.ceiling === 'closed' ? 'open' : 'closed' });
  });

  it('a channel that nothing carries is off, says why, and cannot be switched on', async () => {
    await showOnBench(<Fields schema={group('keep')} path={['keep']} />);
    const colour = page.getByRole('switch', { name: 'Colour' });
    await expect.element(colour).toBeDisabled();
    await expect.element(colour).not.toBeChecked();
    await expect.element(page.getByText('not carried').first()).toBeVisible();
    useSheet.getState().editSolve((s) => withValue(s, ['matter', 'colour'], true));
    await expect.element(colour).toBeEnabled();
    await expect.element(colour).toBeChecked();
  });

  it('a choice and a switch', async () => {
    await showOnBench(<Fields schema={group('keep')} path={['keep']} />);
    await page.getByRole('combobox', { name: 'Precision' }).click();
    const others = page.getByRole('option');
    const other = others.elements().find((o) => o.getAttribute('aria-selected') !== 'true')!;
    const was = sheet().keep.precision;
    await userEvent.click(other);
    expect(sheet().keep.precision).not.toBe(was);
    expect(['half', 'full']).toContain(sheet().keep.precision);
    const roll = sheet().keep.preRoll;
    await page.getByRole('switch', { name: /pre-roll/i }).click();
    expect(sheet().keep.preRoll).toBe(!roll);
  });

  it('what may be none can be set, gets a value that is valid, and be none again', async () => {
    await showOnBench(<Fields schema={group('forces')} path={['forces']} skip={['fields', 'moves']} />);
    expect(sheet().forces.turbulence).toBeNull();
    await page.getByRole('button', { name: 'Turbulence field: set' }).click();
    expect(sheet().forces.turbulence).not.toBeNull();
    expect(solveSchema.safeParse(sheet()).success).toBe(true);
    await page.getByRole('button', { name: 'Turbulence field: none' }).click();
    expect(sheet().forces.turbulence).toBeNull();
  });

  it('the limit box begins as the derived one', async () => {
    await showOnBench(<Fields schema={group('bounds')} path={['bounds']} skip={['beside']} />);
    await page.getByRole('button', { name: 'Limit box: set' }).click();
    const { limit } = sheet().bounds;
    // Around the ball at half a metre's height, with room above it.
    expect(limit!.min[1]).toBeLessThanOrEqual(0.1);
    expect(limit!.max[1]).toBeGreaterThan(1);
  });

  it('a shape keeps what its new kind shares with the old one', async () => {
    await showOnBench(<Fields schema={sourceSchema} path={['sources', 0]} skip={['name', 'hidden']} />);
    await page.getByRole('combobox', { name: 'Shape' }).click();
    await page.getByRole('option', { name: 'Box' }).click();
    expect(sheet().sources[0]!.shape).toMatchObject({ kind: 'box', centre: [0, 0.5, 0] });
  });

  it('opens the curve of a number of its own item, and three values of a number', async () => {
    const { bench } = await showOnBench(<Fields schema={sourceSchema} path={['sources', 0]} skip={['name', 'hidden']} />);
    await userEvent.click(page.getByRole('button', { name: 'Heat: make it move' }));
    expect(bench.makeMove).toHaveBeenCalledWith({ title: 'Heat', unit: 'kelvinDifference', item: ['sources', 0], paths: ['heat'] });
    await userEvent.click(page.getByRole('button', { name: 'Heat: try three values' }));
    expect(bench.tryThree).toHaveBeenCalledWith(['sources', 0, 'heat']);
  });

  it('a number that moves says so', async () => {
    const shot = makeShot();
    const variant = shot.variants[0]!;
    const moves = { heat: { kind: 'expression' as const, text: 'value * 2' } };
    const settings = withGroups(variant.settings, { sources: gasSolveOf(variant.settings).sources.map((s) => ({ ...s, moves })) });
    await showOnBench(<Fields schema={sourceSchema} path={['sources', 0]} />, { shot: makeShot({ variants: [{ ...variant, settings }] }) });
    await expect.element(page.getByRole('button', { name: 'Heat: its curve' })).toBeVisible();
    await expect.element(page.getByRole('button', { name: 'Density: its curve' })).not.toBeInTheDocument();
  });
});
