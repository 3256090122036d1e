import type { Group, LiquidSolve, ShotFields } from '#core/shot';
import { formatQuantity } from '#core/units';

/** The one value of a group that its tile shows. */
export function liquidKeyValue(group: Group, s: LiquidSolve, fields: ShotFields): string {
  switch (group) {
    case 'scale':
      return `unit ${formatQuantity(fields.metresPerUnit, 'metre')}`;
    case 'detail':
      return `${formatQuantity(s.detail.voxelSize, 'metre')} · ${String(s.detail.particles ** 3)}`;
    case 'stepping':
      return `CFL ${String(s.stepping.cfl)} · ${String(s.stepping.minSubsteps)}–${String(s.stepping.maxSubsteps)}`;
    case 'bounds':
      return s.bounds.mode;
    case 'sources':
      return String(s.sources.filter((x) => !x.hidden).length);
    case 'solids':
      return String(s.solids.filter((x) => !x.hidden).length);
    case 'forces': {
      const more = s.forces.fields.filter((f) => !f.hidden).length;
      return more === 0
        ? `g ${formatQuantity(Math.hypot(...s.forces.gravity), 'acceleration', { digits: 3 })}`
        : `${String(more + 1)} forces`;
    }
    case 'matter':
      return s.matter.transfer === 'apic' ? 'APIC' : 'FLIP';
    case 'keep':
      return s.keep.distance || s.keep.velocity ? '.ply + .vdb' : '.ply';
  }
}
