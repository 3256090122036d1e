import { describe, expect, it } from 'vitest';
import { page } from 'vitest/browser';
import type { PointsPreview } from '#core/formats';
import { makeLiquidReport } from '#testing/values';
import { usePointsLook } from '#web/state';
import { show } from '#web/testing';
import { PointsMenu, speedHistogram } from './points-menu';
import { LiquidReadout } from './readout';

const points = (count: number, of: number): PointsPreview => ({
  min: [0, 0, 0],
  max: [1, 1, 1],
  fastest: 4,
  of,
  count,
  places: new Uint16Array(3 * count),
  speeds: Uint8Array.from({ length: count }, (_v, n) => (n % 4 === 0 ? 255 : 8)),
  ages: new Uint8Array(count),
  directions: null,
});

describe('what a frame of liquid holds', () => {
  const readout = page.getByTestId('readout');

  it('says particles, memory, substeps, speed, voxel size, and how far its volume is off', async () => {
    const report = makeLiquidReport({ particles: 81_234, surfaceVolume: 0.988, fastest: 3.14 });
    await show(<LiquidReadout report={report} points={points(8, 8)} voxelSize={0.05} />);
    await expect.element(readout).toHaveTextContent(/particles 81\.2 k/);
    await expect.element(readout).toHaveTextContent(/fastest 3\.14 m\/s/);
    await expect.element(readout).toHaveTextContent(/voxel 0\.05 m/);
    await expect.element(readout).toHaveTextContent(/gap at walls 0\.16 vx/);
    await expect.element(readout).toHaveTextContent(/volume −1\.2 %/);
  });

  it('says how many of its particles are shown when not all are, and which substeps it was short of', async () => {
    await show(
      <LiquidReadout report={makeLiquidReport({ substepsWanted: 7, substepsUsed: 4 })} points={points(250, 1000)} voxelSize={0.05} />,
    );
    await expect.element(readout).toHaveTextContent(/shown 25 %/);
    await expect.element(readout).toHaveTextContent(/4 of 7 wanted/);
  });
});

describe('how particles are looked at', () => {
  it('colour, width and share are set, and it says how many were sent', async () => {
    await show(<PointsMenu points={points(2000, 3_000_000)} />);
    await page.getByRole('button', { name: 'Particles' }).click();
    const dialog = page.getByRole('dialog', { name: 'How particles are looked at' });
    await expect.element(dialog).toHaveTextContent(/2 k of 3 M are sent here; all are in the file/);
    await expect.element(dialog).toHaveTextContent('4 m/s');
    await dialog.getByRole('button', { name: 'Red slip' }).click();
    const width = dialog.getByRole('slider', { name: 'Width' });
    (width.element() as HTMLInputElement).focus();
    const before = usePointsLook.getState().size;
    width.element().dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true }));
    await expect.poll(() => usePointsLook.getState().size).toBeCloseTo(before + 0.05, 6);
    expect(usePointsLook.getState().colour).toBe('slip');
    for (const [name, as] of [
      ['Surface', 'surface'],
      ['Velocity', 'lines'],
      ['Balls', 'balls'],
    ] as const) {
      await dialog.getByRole('button', { name }).click();
      expect(usePointsLook.getState().as).toBe(as);
    }
  });

  it('the histogram is of speeds, its tallest bar whole', () => {
    const bars = speedHistogram(points(400, 400).speeds);
    expect(bars).toHaveLength(32);
    expect([bars[1], bars[31]]).toEqual([1, 1 / 3]);
    expect(bars.filter((b) => b > 0)).toHaveLength(2);
    expect(speedHistogram(new Uint8Array())).toEqual(new Array(32).fill(0));
  });
});
