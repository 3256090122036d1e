import { channelsOf } from '#core/gas';
import type { GasSolve, Group, ShotFields } from '#core/shot';
import { formatQuantity } from '#core/units';

/** The one value of a group that its tile shows. */
export function gasKeyValue(group: Group, s: GasSolve, fields: ShotFields): string {
  switch (group) {
    case 'scale':
      return `unit ${formatQuantity(fields.metresPerUnit, 'metre')}`;
    case 'detail':
      return formatQuantity(s.detail.voxelSize, 'metre');
    case 'stepping':
      return `CFL ${String(s.stepping.cfl)} · ${String(s.stepping.minSubsteps)}–${String(s.stepping.maxSubsteps)}`;
    case 'bounds':
      return s.bounds.mode;
    case 'sources': {
      const n = s.sources.filter((x) => !x.hidden).length;
      return n === 1 ? '1 emits' : `${String(n)} emit`;
    }
    case 'solids':
      return String(s.solids.filter((x) => !x.hidden).length);
    case 'forces': {
      const wind = Math.hypot(...s.forces.wind);
      if (wind > 0) return `air ${formatQuantity(wind, 'speed', { digits: 2 })}`;
      const more = s.forces.fields.filter((f) => !f.hidden).length + (s.forces.turbulence ? 1 : 0);
      if (more > 1) return `${String(more)} forces`;
      return more === 1 ? (s.forces.turbulence ? 'turbulence' : '1 force') : 'still air';
    }
    case 'matter':
      return { ppm: 'PPM', linear: 'linear', maccormack: 'MacCormack', bfecc: 'BFECC', cubic: 'cubic' }[s.matter.scalarAdvection];
    case 'keep': {
      const n = channelsOf(s).filter((name) => s.keep[name]).length;
      return `${String(n)} ${n === 1 ? 'channel' : 'channels'}`;
    }
  }
}
