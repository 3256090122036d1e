import { shapeBounds } from '#core/geometry';
import { pushOf } from '#core/gas';
import { type GasSolve, type GasSourceSettings, defaultLimit } from '#core/shot';
import { formatQuantity } from '#core/units';
import { type Check, type Finding, framesOf } from './finding';

/** Densities below this are not seen in any look. */
const VISIBLE = 0.01;

/** A push stronger than this presses, m/s^2; a weaker one only lets it lie. */
const PRESSES = 0.5;

/** The closed floor or ceiling that a source's own heat and weight press it into; null: none. */
function pressedInto(
  source: GasSourceSettings,
  { matter, bounds }: GasSolve,
  h: number,
  limit: { readonly min: readonly number[]; readonly max: readonly number[] },
): { readonly wall: 'floor' | 'ceiling'; readonly down: boolean; readonly push: number; readonly heat: number } | null {
  // What moves, blows or rides on a moving thing gets away.
  if (source.velocity || source.stir || Object.keys(source.moves).length > 0) return null;
  const heat = source.heat ?? 0;
  const push = pushOf(matter, source.density ?? 0, heat);
  if (Math.abs(push) < PRESSES) return null;
  const down = push < 0;
  const wall = down ? 'floor' : 'ceiling';
  const box = shapeBounds(source.shape);
  const gap = down ? box.max[1] - (limit.min[1] ?? 0) : (limit.max[1] ?? 0) - box.min[1];
  if (bounds.walls[wall] !== 'closed' || gap > 3 * h) return null;
  return { wall, down, push, heat: heat === 0 ? (down ? 100 : -100) : -heat };
}

/** Why nothing is there, or nothing can be seen: from the settings, and from what was computed. */
export const nothingVisible: Check = {
  id: 'nothing',
  find({ shot, settings, plan, reports }) {
    const found: Finding[] = [];
    const say = (id: string, finding: Omit<Finding, 'id' | 'severity' | 'frames'>): void => {
      found.push({ id: `nothing:${id}`, severity: 'warning', frames: null, ...finding });
    };
    const shown = settings.sources.map((source, n) => ({ source, n })).filter(({ source }) => !source.hidden);
    if (shown.length === 0) {
      say('no-source', {
        group: 'sources',
        title: 'Nothing emits',
        text: settings.sources.length === 0 ? 'There is no source. Add one.' : 'Every source is hidden. Show one.',
        remedies: settings.sources.map((s, n) => ({
          title: `Show ${s.name}`,
          edits: [{ path: `sources[${String(n)}].hidden`, value: false }],
        })),
      });
      return found;
    }
    const limit = settings.bounds.limit ?? defaultLimit(settings);
    for (const { source, n } of shown) {
      const box = shapeBounds(source.shape);
      if (
        [0, 1, 2].every((a) => box.max[a as 0 | 1 | 2] > limit.min[a as 0 | 1 | 2] && box.min[a as 0 | 1 | 2] < limit.max[a as 0 | 1 | 2])
      )
        continue;
      say(`outside:${String(n)}`, {
        group: 'sources',
        title: `${source.name} lies outside the limit box`,
        text: 'Nothing is computed there. Make the limit box reach around it.',
        remedies: [
          {
            title: `Limit box around ${source.name}`,
            edits: [
              {
                path: 'bounds.limit',
                value: {
                  min: limit.min.map((v, a) => Math.min(v, Math.floor((box.min[a] ?? 0) - 1))),
                  max: limit.max.map((v, a) => Math.max(v, Math.ceil((box.max[a] ?? 0) + 1))),
                },
              },
            ],
          },
        ],
      });
    }
    const begin = shot.firstFrame - shot.preRoll;
    for (const { source, n } of shown) {
      const from = source.from ?? -Infinity;
      const to = source.to ?? Infinity;
      if (from <= shot.lastFrame && to >= begin && from <= to) continue;
      say(`frames:${String(n)}`, {
        group: 'sources',
        title: `${source.name} never emits within the shot`,
        text: `It emits from frame ${source.from === null ? 'the start' : String(source.from)} to ${source.to === null ? 'the end' : String(source.to)}; the shot runs from ${String(begin)} to ${String(shot.lastFrame)}.`,
        remedies: [
          {
            title: `${source.name} emits all the time`,
            edits: [
              { path: `sources[${String(n)}].from`, value: null },
              { path: `sources[${String(n)}].to`, value: null },
            ],
          },
        ],
      });
    }
    const densest = shown.reduce((a, b) => ((b.source.density ?? 0) > (a.source.density ?? 0) ? b : a));
    const density = densest.source.density ?? 0;
    if (density <= 0) {
      say('no-density', {
        group: 'sources',
        title: 'No source brings density',
        text: 'Heat and velocity alone are not seen. Give a source a density.',
        remedies: [
          { title: `Density of ${densest.source.name} → 1`, edits: [{ path: `sources[${String(densest.n)}].density`, value: 1 }] },
        ],
      });
    } else if (settings.bounds.cutOff >= density) {
      say('cut-off', {
        group: 'bounds',
        title: 'The cut-off removes all of the density',
        text: `It is ${formatQuantity(settings.bounds.cutOff, 'none')}, the densest source ${formatQuantity(density, 'none')}.`,
        remedies: [
          { title: `Cut-off → ${formatQuantity(density * 1e-3, 'none')}`, edits: [{ path: 'bounds.cutOff', value: density * 1e-3 }] },
        ],
      });
    }
    for (const { source, n } of shown) {
      const pressed = pressedInto(source, settings, plan.options.voxelSize, limit);
      if (!pressed) continue;
      say(`pressed:${String(n)}`, {
        group: 'sources',
        title: `${source.name} is pressed into the ${pressed.wall}`,
        text: `What it emits is pushed ${pressed.down ? 'down' : 'up'} with ${formatQuantity(Math.abs(pressed.push), 'acceleration', { digits: 2 })}, and the closed ${pressed.wall} is right there: it creeps along it a voxel high. Lift the source off, turn its heat, or open the wall.`,
        remedies: [
          {
            title: `Heat of ${source.name} → ${formatQuantity(pressed.heat, 'kelvinDifference')}`,
            edits: [{ path: `sources[${String(n)}].heat`, value: pressed.heat }],
          },
        ],
      });
    }
    const frame = 1 / plan.options.framesPerSecond;
    if (settings.matter.decayTime !== null && settings.matter.decayTime < frame) {
      say('decay', {
        group: 'matter',
        title: 'Density decays within a frame',
        text: `Its decay time is ${formatQuantity(settings.matter.decayTime, 'second', { digits: 3 })}, a frame ${formatQuantity(frame, 'second', { digits: 3 })}.`,
        remedies: [{ title: 'Decay time → 1 s', edits: [{ path: 'matter.decayTime', value: 1 }] }],
      });
    }
    // Only when the settings do not explain it already: what was computed holds nothing.
    const computed = reports.filter((r) => r.frame > begin);
    if (found.length === 0 && computed.length > 2) {
      const brought = computed.reduce((n, r) => n + r.mass.sources + r.mass.burning, 0);
      const most = Math.max(...computed.map((r) => r.maxima.density));
      if (brought <= 0 && most <= 0) {
        say('emitted', {
          group: 'sources',
          title: 'Nothing was emitted',
          text: `No source reached a voxel of the bounds in ${String(computed.length)} frames. Is it inside a solid, or smaller than a voxel (${formatQuantity(plan.options.voxelSize, 'metre')})?`,
          remedies: [],
        });
      } else if (most < VISIBLE) {
        say('thin', {
          group: 'sources',
          title: `Density stays below ${String(VISIBLE)}: nothing is seen`,
          text: `The densest voxel held ${most.toExponential(1)}. Raise the density of a source, or look for what removes it (decay, cut-off).`,
          remedies: [
            {
              title: `Density of ${densest.source.name} ${formatQuantity(density, 'none')} → ${formatQuantity(density * 10, 'none')}`,
              edits: [{ path: `sources[${String(densest.n)}].density`, value: Math.min(1000, density * 10) }],
            },
          ],
        });
      }
    }
    return found.map((f) => ({ ...f, frames: reports.length > 0 ? framesOf(reports) : null }));
  },
};
