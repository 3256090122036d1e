import { solveSchema } from '#core/shot';
import { formatQuantity } from '#core/units';
import { type Check, type Finding, framesOf, framesText } from './finding';

/** Hotter than the ignition by this, so that noise on the emission does not put it out. */
const ABOVE = 150;
/** Cubic metres a second that may have nowhere to go, over those of a cube a voxel wide: rounding. */
const TRAPPED = 0.05;

/** Whatever keeps a fire from being one. */
export const burning: Check = {
  id: 'fire',
  find({ settings, plan, reports }) {
    const { fire, ambient } = settings.matter;
    const fuelled = settings.sources.map((source, n) => ({ source, n })).filter(({ source }) => !source.hidden && (source.fuel ?? 0) > 0);
    const first = settings.sources.findIndex((s) => !s.hidden);
    const found: Finding[] = [];
    const base = { severity: 'warning', frames: null } as const;
    if (!fire) {
      for (const { source, n } of fuelled.slice(0, 1)) {
        found.push({
          ...base,
          id: `fire:none:${String(n)}`,
          group: 'matter',
          title: `${source.name} emits fuel, and nothing burns it`,
          text: 'Without a fire fuel is not even carried along. Set the fire, or leave the fuel out.',
          remedies: [
            { title: 'Fire → set', edits: [{ path: 'matter.fire', value: solveSchema.parse({ matter: { fire: {} } }).matter.fire }] },
            { title: `Fuel of ${source.name} → unchanged`, edits: [{ path: `sources[${String(n)}].fuel`, value: null }] },
          ],
        });
      }
      return found;
    }
    if (fuelled.length === 0) {
      found.push({
        ...base,
        id: 'fire:no-fuel',
        group: 'sources',
        title: 'There is a fire, and no source emits fuel',
        text: 'Nothing can burn, and fuel and flames are carried along all the same. Give a source some fuel.',
        remedies:
          first < 0
            ? []
            : [
                {
                  title: `Fuel of ${settings.sources[first]?.name ?? ''} → 1`,
                  edits: [{ path: `sources[${String(first)}].fuel`, value: 1 }],
                },
              ],
      });
      return found;
    }
    const late = reports.slice(reports.length >> 1);
    if (late.length > 0 && fire.soot > 0 && reports.every((r) => r.mass.burning === 0)) {
      const hottest = Math.max(...reports.map((r) => r.maxima.temperature));
      const { source, n } = fuelled[0] as (typeof fuelled)[number];
      const heat = Math.ceil(fire.ignition - ambient + ABOVE);
      found.push({
        ...base,
        id: 'fire:unlit',
        group: 'sources',
        title: `Nothing caught fire: ${formatQuantity(hottest, 'celsius', { digits: 3 })} at most, ignition at ${formatQuantity(fire.ignition, 'celsius', { digits: 3 })}`,
        text: `Fuel burns only where it is at least as hot as the ignition. Let ${source.name} emit it hotter, or lower the ignition.`,
        frames: framesOf(reports),
        remedies: [
          {
            title: `Heat of ${source.name} → ${formatQuantity(heat, 'kelvinDifference')}`,
            edits: [{ path: `sources[${String(n)}].heat`, value: heat }],
          },
        ],
      });
    }
    const limit = TRAPPED * plan.options.voxelSize ** 3 * plan.options.framesPerSecond;
    const frames = framesOf(reports.filter((r) => (r.trapped ?? 0) > limit));
    if (frames) {
      found.push({
        ...base,
        id: 'fire:trapped',
        group: 'solids',
        title: `Volume has nowhere to go (${framesText(frames)})`,
        text: 'Something burns, or a solid moves, in a pocket that solids and closed walls seal: incompressible air has nowhere to go. Leave a gap, or open a wall.',
        frames,
        remedies:
          settings.bounds.walls.ceiling === 'closed'
            ? [{ title: 'Ceiling (+y) Closed → Open', edits: [{ path: 'bounds.walls.ceiling', value: 'open' }] }]
            : [],
      });
    }
    return found;
  },
};

/** Heat is carried along, and changes nothing. */
export const unusedHeat: Check = {
  id: 'unused-heat',
  find({ settings }) {
    const { lift, fire, moves } = settings.matter;
    if (lift !== 0 || fire || moves['lift']) return [];
    const hot = settings.sources.map((source, n) => ({ source, n })).filter(({ source }) => !source.hidden && (source.heat ?? 0) !== 0);
    if (hot.length === 0) return [];
    return [
      {
        id: 'unused-heat',
        group: 'matter',
        severity: 'note',
        title: `${hot[0]?.source.name ?? 'A source'} emits heat that moves nothing`,
        text: 'Rise by heat is 0 and nothing burns: the temperature is carried along for its own sake. Let heat rise, or emit none.',
        frames: null,
        remedies: [
          { title: 'Rise by heat 0 → 0.02', edits: [{ path: 'matter.lift', value: 0.02 }] },
          { title: 'Heat → unchanged', edits: hot.map(({ n }) => ({ path: `sources[${String(n)}].heat`, value: null })) },
        ],
      },
    ];
  },
};
