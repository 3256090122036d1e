import { refillFlight } from '#core/passes';
import { refillSettingsSchema } from '#core/shot';
import { velocityField, withTeam } from '#testing';
import { type Section, middle, row } from './section';

const FRAME = 1 / 24;
const PARENTS = 10_000;
const SUBSTEPS_BOX = 48;

export const refill: Section = {
  id: 'refill',
  title: 'Two million refilled particles, carried by a turning gas, two threads',
  async run({ quick, say }) {
    // A turn in four seconds, over 96 voxels a side.
    const gas = velocityField((x, _y, z) => [1.5 * z, 0.2, -1.5 * x], [0, 0, 0], SUBSTEPS_BOX);
    const parents = {
      count: PARENTS,
      places: Float32Array.from({ length: 4 * PARENTS }, (_v, n) => (n % 4 === 3 ? 9 : 3 * Math.sin(n * 12.9898))),
      motions: new Float32Array(4 * PARENTS),
      ids: Uint32Array.from({ length: PARENTS }, (_v, n) => n),
    };
    // 200 around each live at a time, a twentieth of them new in each frame.
    const settings = refillSettingsSchema.parse({ perSecond: 240, life: 20 * FRAME, lifeSpread: 0, radius: 0.05 });
    const body = { settings, frameSeconds: FRAME, firstFrame: 1, ages: true };
    return await withTeam(2, (team) => {
      const { flight } = refillFlight(body, team, () => parents);
      flight.begin(1, gas);
      for (let f = 2; f <= 21; f++) flight.step(f, gas);
      const rates: number[] = [];
      for (let f = 22; f < (quick ? 26 : 42); f++) {
        const began = performance.now();
        const { substeps } = flight.step(f, gas);
        rates.push((flight.cloud.count * substeps) / (performance.now() - began) / 1e3);
        say(
          `${String(flight.cloud.count)} particles, ${String(substeps)} substeps: ${rates[rates.length - 1]?.toFixed(1) ?? ''} M a second`,
        );
      }
      return [
        row('particle-steps, births, burials and loading the gas with them', middle(rates), 'M a second', { least: 8 }),
        row('particles of the last frame', flight.cloud.count / 1e6, 'million'),
      ];
    });
  },
};
