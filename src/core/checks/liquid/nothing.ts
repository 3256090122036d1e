import { shapeBounds } from '#core/geometry';
import { meets } from '#core/shot';
import type { Check, Finding, LiquidCheckInput } from '../finding';
import { framesOf } from '../finding';

/** There is no liquid: no source that is on, or none of what they give lies in the limit box. */
export const noLiquid: Check<LiquidCheckInput> = {
  id: 'no-liquid',
  find({ settings, plan, reports }) {
    const on = settings.sources.map((s, n) => ({ s, n })).filter(({ s }) => !s.hidden && s.act !== 'drains');
    const first = settings.sources.findIndex((s) => s.hidden && s.act !== 'drains');
    if (on.length === 0) {
      return [
        {
          id: 'no-liquid',
          group: 'sources',
          severity: 'warning',
          title: 'There is no liquid',
          text: 'No source that is on fills or emits. Add a body of liquid, or one that emits.',
          frames: null,
          remedies:
            first < 0
              ? []
              : [
                  {
                    title: `${settings.sources[first]?.name ?? ''} → shown`,
                    edits: [{ path: `sources[${String(first)}].hidden`, value: false }],
                  },
                ],
        },
      ];
    }
    const outside = on.filter(({ s }) => Object.keys(s.moves).length === 0 && !meets(shapeBounds(s.shape), plan.options.bounds.limit));
    const found = outside.map(({ s, n }): Finding => ({
      id: `outside-source:${String(n)}`,
      group: 'sources',
      severity: 'warning',
      title: `${s.name} lies outside of the limit box`,
      text: 'Nothing of what it gives is computed. Move it, or let the limit box be around sources and solids.',
      frames: null,
      remedies:
        settings.bounds.limit === null
          ? []
          : [{ title: 'Limit box → around sources and solids', edits: [{ path: 'bounds.limit', value: null }] }],
    }));
    const empty = framesOf(reports.filter((r) => r.particles === 0));
    if (reports.length < 2 || !empty || empty.count < reports.length || outside.length === on.length) return found;
    return [
      ...found,
      {
        id: 'no-particles',
        group: 'sources',
        severity: 'warning',
        title: 'No source ever gave a particle',
        text: 'They lie inside solids, are thinner than a particle, or begin after the last frame.',
        frames: empty,
        remedies: [],
      },
    ];
  },
};
