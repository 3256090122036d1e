import type { Group, Settings } from '#core/shot';
import { formatQuantity } from '#core/units';
import type { ShotDto } from '#protocol';

/** The one value of a group that its tile shows. */
export function keyValue(group: Group, s: Settings, shot: ShotDto): string {
  switch (group) {
    case 'scale':
      return `unit ${formatQuantity(shot.fields.metresPerUnit, 'metre')}`;
    case 'detail':
      return formatQuantity(s.detail.voxelSize, 'metre');
    case 'stepping':
      return `CFL ${String(s.stepping.cfl)} · ${String(s.stepping.minSubsteps)}–${String(s.stepping.maxSubsteps)}`;
    case 'bounds':
      return s.bounds.mode;
    case 'sources':
      return s.sources.length === 1 ? '1 emits' : `${String(s.sources.length)} emit`;
    case 'solids':
      return String(s.solids.length);
    case 'forces': {
      const wind = Math.hypot(...s.forces.wind);
      return wind > 0 ? `air ${formatQuantity(wind, 'speed', { digits: 2 })}` : 'still air';
    }
    case 'matter':
      return s.matter.scalarAdvection === 'maccormack' ? 'MacCormack' : 'linear';
    case 'keep': {
      const n = [s.keep.density, s.keep.temperature, s.keep.vel].filter(Boolean).length;
      return `${String(n)} ${n === 1 ? 'channel' : 'channels'}`;
    }
  }
}
