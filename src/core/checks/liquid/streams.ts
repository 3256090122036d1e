import { type Held, type SourceTold, askedByFrame } from '#core/liquid';
import { formatCount, formatLitres, formatQuantity } from '#core/units';
import { type Check, type Finding, type LiquidCheckInput, framesOf, framesText } from '../finding';

/** Particles that a source may ask for in a frame without a word: more take a minute each. */
const FLOOD = 1e6;
/** Part of what was asked for that may be missing. */
const MISSING = 0.01;

/** Sources of the plan, which leaves hidden ones out, with their place on the sheet. */
const placesOf = ({ settings }: LiquidCheckInput): number[] => settings.sources.flatMap((s, n) => (s.hidden ? [] : [n]));

/** Emits, but neither a velocity nor a rate says how much. */
export const blockedSources: Check<LiquidCheckInput> = {
  id: 'still-source',
  find: ({ settings }) =>
    settings.sources.flatMap((s, n): Finding[] => {
      if (s.hidden || s.act !== 'emits' || Math.hypot(...s.velocity) > 0 || s.volumeRate !== null || Object.keys(s.moves).length > 0)
        return [];
      const path = `sources[${String(n)}]`;
      return [
        {
          id: `still-source:${String(n)}`,
          group: 'sources',
          severity: 'warning',
          title: `${s.name} emits nothing`,
          text: 'It has neither a velocity nor a rate, so nothing says how much comes. Give it one of them, or let it keep its shape full.',
          frames: null,
          remedies: [
            { title: 'Velocity → 1 m/s down', edits: [{ path: `${path}.velocity`, value: [0, -1, 0] }] },
            { title: 'Does → keeps full', edits: [{ path: `${path}.act`, value: 'keeps' }] },
          ],
        },
      ];
    }),
};

const BECAUSE: Readonly<Record<Held, string>> = {
  wall: 'Its opening lies in a solid. Move it out of the solid, or the solid away from it.',
  outside: 'Its opening lies outside of the limit box. Move it into the box, or make the box larger.',
  full: 'The box is closed and full: nothing more goes in. Open a wall, or drain as much as comes.',
  many: 'It asks for more particles than are made in one substep. Take larger voxels, or a lower rate.',
};

/** A source gave less than it was asked for. */
export const shortSources: Check<LiquidCheckInput> = {
  id: 'short-source',
  find(input) {
    const { voxelSize, particles } = input.plan.options;
    const particle = (voxelSize / particles.along) ** 3;
    const places = placesOf(input);
    const short = ({ asked, given, held }: SourceTold): boolean =>
      held !== null && asked - given > Math.max(MISSING * asked, 1.5 * particle);
    return input.plan.options.sources.flatMap(({ name }, source): Finding[] => {
      const told = input.reports.flatMap((report) => {
        const of = report.sources?.find((s) => s.source === source);
        return of && short(of) ? [{ frame: report.frame, ...of }] : [];
      });
      const last = told[told.length - 1];
      if (!last?.held) return [];
      const { asked, given, held } = last;
      const frames = framesOf(told);
      return [
        {
          id: `short-source:${String(places[source] ?? source)}`,
          group: 'sources',
          severity: 'warning',
          title: `${name} gave ${formatLitres(given)} of ${formatLitres(asked)}`,
          text: `In ${framesText(frames)}. By frame ${String(last.frame)} ${formatLitres(asked - given)} are missing; they come as soon as there is room. ${BECAUSE[held]}`,
          frames,
          remedies: [],
        },
      ];
    });
  },
};

/** A rate that needs more particles in a frame than any machine carries on. */
export const floods: Check<LiquidCheckInput> = {
  id: 'flood',
  find(input) {
    const { options } = input.plan;
    const h = options.voxelSize;
    const places = placesOf(input);
    return options.sources.flatMap((s, index): Finding[] => {
      const most = askedByFrame(s, options).reduce((a, b) => Math.max(a, b), 0);
      const count = most / (h / options.particles.along) ** 3;
      const n = places[index];
      if (count <= FLOOD || n === undefined) return [];
      const { voxelSize } = input.settings.detail;
      const larger = Number((voxelSize * Math.cbrt(count / FLOOD) * 1.01).toPrecision(2));
      const rate = Number(((s.volumeRate ?? most * options.framesPerSecond) * (FLOOD / count) * 0.99).toPrecision(2));
      const path = `sources[${String(n)}]`;
      return [
        {
          id: `flood:${String(n)}`,
          group: 'sources',
          severity: 'warning',
          title: `${s.name} asks for ${formatCount(count)} particles a frame`,
          text: `${formatLitres(most)} a frame on voxels of ${formatQuantity(h, 'metre')}. Beyond a million a frame, frames take minutes and the memory is soon full. Take larger voxels, or a lower rate.`,
          frames: null,
          remedies: [
            ...(larger <= 100
              ? [
                  {
                    title: `Voxel size ${formatQuantity(voxelSize, 'metre')} → ${formatQuantity(larger, 'metre')}`,
                    edits: [{ path: 'detail.voxelSize', value: larger }],
                  },
                ]
              : []),
            { title: `Rate → ${formatLitres(rate, '/s')}`, edits: [{ path: `${path}.volumeRate`, value: rate }] },
          ],
        },
      ];
    });
  },
};
