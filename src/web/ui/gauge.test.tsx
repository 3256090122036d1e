import { describe, expect, it } from 'vitest';
import { page } from 'vitest/browser';
import { show } from '#web/testing';
import { Gauge } from './gauge';

const draw = async (spent: number, predicted: number | null): Promise<{ said: string | null; now: number; bars: number[] }> => {
  await show(
    <div style={{ width: 150 }}>
      <Gauge title="Time" spent={spent} predicted={predicted} budget={100} show={(v) => `${String(v)} s`} help="All of it" />
    </div>,
  );
  const meter = page.getByRole('meter', { name: 'Time' }).element();
  const bar = meter.lastElementChild!;
  const whole = bar.clientWidth;
  return {
    said: meter.getAttribute('aria-valuetext'),
    now: Number(meter.getAttribute('aria-valuenow')),
    bars: [...bar.children].map((p) => Math.round((p.getBoundingClientRect().width / whole) * 100)),
  };
};

describe('a budget', () => {
  it('shows what is spent and what comes on top, against the whole', async () => {
    expect(await draw(30, 20)).toEqual({ said: '30 s + 20 s of 100 s', now: 50, bars: [30, 20] });
  });
  it('says only what there is', async () => {
    expect(await draw(30, null)).toMatchObject({ said: '30 s of 100 s', now: 30, bars: [30, 0] });
  });
  it('says how far it goes beyond, while the bar ends at its end', async () => {
    const { said, now, bars } = await draw(80, 240);
    expect([said, now]).toEqual(['80 s + 240 s of 100 s', 320]);
    expect(bars[0]! + bars[1]!).toBeLessThanOrEqual(101);
  });
});
