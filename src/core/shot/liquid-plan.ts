import type { LiquidVolume } from '#core/liquid';
import type { LiquidSettings, LiquidSolve } from './liquid-settings';
import { defaultLimit } from './limit-from';
import { followedBy } from './moves-schema';
import type { LiquidAttribute, LiquidPlan, Rung } from './plan-types';
import { fieldsOf, nameless, solidsOf, timesOf } from './plan-parts';
import type { ShotFields } from './shot';

const ATTRIBUTES = ['radius', 'viscosity', 'source'] as const satisfies readonly (keyof LiquidSettings['keep'] & LiquidAttribute)[];

const volumesOf = (keep: LiquidSettings['keep']): LiquidVolume[] => [
  ...(keep.distance ? (['distance'] as const) : []),
  ...(keep.velocity ? (['vel'] as const) : []),
];

/** Resolves a liquid's settings at a rung. Lengths of the world stay; only the voxel size takes the rung's factor. */
export function resolveLiquid(shot: ShotFields, settings: LiquidSolve, rung: Rung, voxelFactor: number): LiquidPlan {
  const { bounds, detail, forces, matter, keep } = settings;
  return {
    pass: 'liquid',
    rung,
    options: {
      voxelSize: detail.voxelSize * voxelFactor,
      ...timesOf(shot, settings),
      // Bounds follow the particles: how far ahead is the solver's own affair.
      bounds: { mode: bounds.mode, limit: bounds.limit ?? defaultLimit(settings), walls: bounds.walls, reach: 0 },
      sources: settings.sources
        .filter((s) => !s.hidden)
        .map(({ hidden: _hidden, ...source }) => ({ ...source, shape: nameless(source.shape) })),
      solids: solidsOf(settings, voxelFactor),
      followed: followedBy(settings).followed,
      forces: {
        gravity: forces.gravity,
        airDrag: forces.airDrag,
        wind: forces.wind,
        windTime: null,
        turbulence: null,
        fields: fieldsOf(settings),
        confinement: 0,
        confinementLength: 0.1,
        moves: forces.moves,
      },
      particles: { along: detail.particles, band: detail.band, inside: detail.inside, jitter: detail.jitter, seed: detail.seed },
      matter,
    },
    beside: [],
    keep: { attributes: ATTRIBUTES.filter((a) => keep[a]), volumes: volumesOf(keep), preRoll: keep.preRoll },
    file: { metresPerUnit: shot.metresPerUnit, upAxis: settings.scale.upAxis, timeScale: shot.timeScale },
  };
}
