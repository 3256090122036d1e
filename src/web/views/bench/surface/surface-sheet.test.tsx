import { beforeEach, describe, expect, it } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { type SurfaceReport, definitionOf } from '#core/passes';
import { type FilterSettings, type PassSettings, filterSchema, followersOf } from '#core/shot';
import { makeShot, makeSurfaceReport, settingsOf } from '#testing/values';
import { solveOf } from '#core/shot';
import { type PassState, navigate, useSheet } from '#web/state';
import { notice, showOnBench } from '../for-tests';
import { PassFindingItem } from '../findings/pass-finding-item';
import { FilterStack } from './filter-stack';
import { SurfaceSheet, idleOf } from './surface-sheet';

type Skin = Extract<PassSettings, { kind: 'surface' }>;

const settings = settingsOf(solveOf(makeShot().variants[0]!.settings), [
  { id: 'skin', kind: 'surface', name: 'Skin', settings: { stack: [{ kind: 'median' }, { kind: 'open', strength: 1.5 }] } },
]);
const state: PassState = {
  id: 'skin',
  kind: 'surface',
  name: 'Skin',
  enabled: true,
  run: null,
  state: 'missing',
  fresh: { test: false, final: false },
  because: null,
  problem: null,
  reads: 'ply',
  voxelSize: { test: null, final: null },
  spacing: { test: 0.02, final: 0.01 },
  test: null,
  final: null,
};
const skin = (): Skin => followersOf(useSheet.getState().settings)[0] as Skin;
const stack = (): FilterSettings[] => skin().settings.stack;

/** The parts of the sheet, drawn anew with each change of the draft. */
function Sheet(): ReturnType<typeof SurfaceSheet> {
  const entry = useSheet((s) => followersOf(s.settings)[0] as Skin);
  return <SurfaceSheet entry={entry} index={1} pass={state} />;
}
function Stack(): ReturnType<typeof FilterStack> {
  const entry = useSheet((s) => followersOf(s.settings)[0] as Skin);
  return <FilterStack entry={entry} />;
}

const shot = { ...makeShot(), variants: [{ ...makeShot().variants[0]!, settings }] };
const list = (): string[] =>
  page
    .getByRole('region', { name: 'Filters' })
    .getByRole('listitem')
    .elements()
    .map((e) => e.getAttribute('aria-label') ?? '');

beforeEach(() => {
  navigate({ pass: 'skin' });
});

describe("a surface's sheet", () => {
  it('says sizes that follow the spacing in metres, and goes with them', async () => {
    await showOnBench(<Sheet />, { shot });
    const sizes = page.getByRole('note', { name: 'Sizes' });
    await expect.element(sizes).toHaveTextContent(/Test: spacing 0\.02\sm, voxels 0\.016\sm, radius 0\.015\sm/);
    await expect.element(sizes).toHaveTextContent(/Final: spacing 0\.01\sm, voxels 0\.008\sm/);
    await page.getByRole('textbox', { name: 'Voxel size, in spacings' }).fill('0.5');
    await userEvent.keyboard('{Enter}');
    await expect.element(sizes).toHaveTextContent(/Test: spacing 0\.02\sm, voxels 0\.01\sm/);
    // In metres the factor means nothing, and goes.
    await page.getByRole('button', { name: 'Voxel size: set' }).click();
    await expect.element(page.getByRole('textbox', { name: 'Voxel size, in spacings' })).not.toBeInTheDocument();
    expect(skin().settings.distance.voxelSize).not.toBeNull();
  });

  it('says at the field that a radius is too small for the voxels, before anything is run', async () => {
    await showOnBench(<Sheet />, { shot });
    await expect.element(page.getByRole('alert')).not.toBeInTheDocument();
    await page.getByRole('textbox', { name: 'Radius, in spacings' }).fill('0.5');
    await userEvent.keyboard('{Enter}');
    await expect
      .element(page.getByRole('alert'))
      .toHaveTextContent(/radius of 0\.01 m fall between voxels of 0\.016 m.*0\.014 m.*0\.012 m, would hold/);
  });

  it('shows only what means something with the rest', () => {
    const own = skin().settings;
    expect(idleOf(own)).toMatchObject({ walls: ['depth'], distance: ['radiusMetres', 'radiusFrom', 'fewest'], files: ['compressed'] });
    const other = {
      ...own,
      walls: { ...own.walls, meeting: 'inside' as const },
      distance: { ...own.distance, method: 'kernels' as const, radius: 'own' as const },
    };
    expect(idleOf(other)).toMatchObject({ walls: [], distance: ['radiusMetres', 'joining'] });
  });
});

describe('the filters of a skin', () => {
  it('are added, set, switched off, moved by the keyboard and taken out', async () => {
    await showOnBench(<Stack />, { shot });
    expect(list()).toEqual(['Median 1', 'Open 2']);
    await page.getByRole('button', { name: 'Add a filter' }).click();
    await page.getByRole('menuitem', { name: 'Gaussian' }).click();
    expect(stack().map((f) => f.kind)).toEqual(['median', 'open', 'gaussian']);
    await page.getByRole('textbox', { name: 'Gaussian 3: Times' }).fill('3');
    await userEvent.keyboard('{Enter}');
    await page.getByRole('switch', { name: 'Open 2: on' }).click();
    expect(stack()).toMatchObject([{ on: true }, { on: false }, { iterations: 3 }]);
    (page.getByRole('button', { name: /^Gaussian 3: drag/ }).element() as HTMLElement).focus();
    await userEvent.keyboard('{Alt>}{ArrowUp}{/Alt}');
    expect(stack().map((f) => f.kind)).toEqual(['median', 'gaussian', 'open']);
    (page.getByRole('button', { name: /^Median 1: drag/ }).element() as HTMLElement).focus();
    await userEvent.keyboard('{Alt>}{ArrowUp}{/Alt}');
    expect(stack().map((f) => f.kind)).toEqual(['median', 'gaussian', 'open']);
    await page.getByRole('button', { name: 'Median 1: take out' }).click();
    expect(stack().map((f) => f.kind)).toEqual(['gaussian', 'open']);
  });

  it('keep to what each can be', async () => {
    await showOnBench(<Stack />, { shot });
    const part = page.getByRole('textbox', { name: 'Median 1: Part' });
    await part.fill('4');
    await userEvent.keyboard('{Enter}');
    expect(stack()[0]!.strength).toBeLessThanOrEqual(1);
    useSheet.getState().edit((s) => ({
      ...s,
      passes: s.passes.map((p) =>
        p.kind === 'surface' ? { ...p, settings: { ...p.settings, stack: [filterSchema.parse({ kind: 'gaussian', strength: 5 })] } } : p,
      ),
    }));
    expect(notice()).toMatch(/must be between 0 and 1\.3/);
  });
});

describe("a surface's findings", () => {
  it('have remedies that are put on the draft by a press', async () => {
    const eaten: SurfaceReport = makeSurfaceReport({
      thin: { particles: 200, before: 190, after: [188, 20], kept: 20 },
      eaten: { filter: 1, without: 186 },
    });
    const findings = definitionOf('surface').checks(skin().settings, [eaten]);
    const found = findings.find((f) => f.id === 'thin')!;
    expect(found.title).toBe('Open eats the thin parts');
    expect(found.text).toMatch(/90 %.*Tried without Open \(filter 2\), 93 %.*with it, 10 %/);
    await showOnBench(<PassFindingItem finding={found} pass="skin" />, { shot });
    await page.getByRole('button', { name: 'Spare what is thin' }).click();
    expect(stack()).toMatchObject([{ spareThin: 0 }, { spareThin: 1, on: true }]);
    await page.getByRole('button', { name: 'Switch it off' }).click();
    expect(stack()[1]!.on).toBe(false);
  });
});
