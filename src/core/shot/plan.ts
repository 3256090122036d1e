import { RuddleError } from '#core/errors';
import type { PictureMask } from '#core/geometry';
import { type GasOptions, channelsOf } from '#core/gas';
import type { LiquidOptions } from '#core/liquid';
import { followedBy } from './moves-schema';
import { countOfBounds, settingsOfBounds } from './beside';
import { defaultLimit } from './limit-from';
import { mistakesOfMoves } from './moved';
import { resolveLiquid } from './liquid-plan';
import { type GasPlan, type Plan, RUNGS, type Rung, isLiquidPlan } from './plan-types';
import { fieldsOf, fingerprints, nameless, solidsOf, timesOf } from './plan-parts';
import { type SolveSettings, isLiquid } from './solve';
import type { GasSolve, GasSourceSettings as SourceSettings } from './solve-settings';
import type { ShotFields } from './shot';

/** Largest amount that a source emits: of its number, or of the keys that move it. */
function largest(source: SourceSettings, name: 'density' | 'heat' | 'fuel'): number {
  const move = source.moves[name];
  if (source[name] === null) return 0;
  return move?.kind === 'keys' ? Math.max(...move.keys.map((k) => Math.abs(k.value))) : Math.abs(source[name]);
}

const namelessMask = ({ file: _file, ...mask }: NonNullable<SourceSettings['mask']>): PictureMask => mask;

/** Fingerprints of the imported geometry that a plan needs, and that settings speak of (hidden things too). */
export const geometryOf = (plan: Plan): string[] => [...new Set(optionsOf(plan).flatMap(geometriesOfOptions))];
export const geometriesOfOptions = ({ sources, solids, forces }: GasOptions | LiquidOptions): string[] =>
  fingerprints([...sources, ...solids, ...forces.fields]);
export const geometriesOfSettings = ({ sources, solids, forces }: SolveSettings): string[] =>
  fingerprints([...sources, ...solids, ...forces.fields]);

/** What is computed in each of a plan's bounds. */
export function optionsOf(plan: GasPlan): readonly GasOptions[];
export function optionsOf(plan: Plan): readonly (GasOptions | LiquidOptions)[];
export function optionsOf({ options, beside }: Plan): readonly (GasOptions | LiquidOptions)[] {
  return [options, ...beside];
}

/** A plan of one of a plan's bounds alone. */
export const planOfBounds = <P extends Plan>(plan: P, n: number): P =>
  isLiquidPlan(plan) ? plan : { ...plan, options: optionsOf(plan)[n] ?? plan.options, beside: [] };

/** What the files of one of a run's bounds are called by: `solve`, `solve-2`. */
export const passOf = (_plan: Plan, n: number): string => (n === 0 ? 'solve' : `solve-${String(n + 1)}`);

/** Resolves settings at a rung. Lengths of the world stay; only the voxel size takes the rung's factor (a Sketch may take a larger one). */
export function resolvePlan(shot: ShotFields, settings: GasSolve, rung: Rung, voxelFactor?: number): GasPlan;
export function resolvePlan(shot: ShotFields, settings: SolveSettings, rung: Rung, voxelFactor?: number): Plan;
export function resolvePlan(shot: ShotFields, settings: SolveSettings, rung: Rung, voxelFactor: number = RUNGS[rung]): Plan {
  if (isLiquid(settings)) return resolveLiquid(shot, settings, rung, voxelFactor);
  const [first, ...others] = Array.from({ length: countOfBounds(settings) }, (_v, n) =>
    resolveBounds(shot, settingsOfBounds(shot, settings, n) as GasSolve, rung, voxelFactor),
  );
  return { ...(first as GasPlan), beside: others.map((p) => p.options) };
}

function resolveBounds(shot: ShotFields, settings: GasSolve, rung: Rung, voxelFactor: number): GasPlan {
  const { bounds, forces, matter, keep } = settings;
  const sources = settings.sources.filter((s) => !s.hidden);
  const most = (name: 'density' | 'heat' | 'fuel'): number => Math.max(0, ...sources.map((s) => largest(s, name)));
  // Fuel is matter too, and what is seen of a fire is its soot.
  const density = Math.max(most('density'), matter.fire ? most('fuel') * Math.min(1, matter.fire.soot || 1) : 0);
  const heat = most('heat');
  return {
    pass: 'solve',
    rung,
    options: {
      voxelSize: settings.detail.voxelSize * voxelFactor,
      ...timesOf(shot, settings),
      bounds: {
        mode: bounds.mode,
        limit: bounds.limit ?? defaultLimit(settings),
        walls: bounds.walls,
        reach: bounds.reach ?? Math.max(0.5, 8 * settings.detail.voxelSize),
        quietDensity: bounds.quietLevel * (density || 1),
        quietHeat: bounds.quietLevel * (heat || 1),
        quietSpeed: bounds.quietSpeed,
        cutOff: bounds.cutOff,
      },
      sources: sources.map(({ hidden: _hidden, mask, ...source }) => ({
        ...source,
        shape: nameless(source.shape),
        mask: mask && namelessMask(mask),
      })),
      solids: solidsOf(settings, voxelFactor),
      followed: followedBy(settings).followed,
      forces: {
        ...forces,
        fields: fieldsOf(settings),
      },
      matter,
    },
    beside: [],
    keep: {
      channels: channelsOf({ matter }).filter((c) => keep[c]),
      precision: keep.precision,
      compression: keep.compression,
      preRoll: keep.preRoll,
    },
    file: { metresPerUnit: shot.metresPerUnit, upAxis: settings.scale.upAxis, timeScale: shot.timeScale },
  };
}

/** A plan that is about to be computed; throws `settings-invalid` when a moving number has no value somewhere in the shot. */
export function planToRun(shot: ShotFields, settings: GasSolve, rung: Rung, voxelFactor?: number): GasPlan;
export function planToRun(shot: ShotFields, settings: SolveSettings, rung: Rung, voxelFactor?: number): Plan;
export function planToRun(shot: ShotFields, settings: SolveSettings, rung: Rung, voxelFactor: number = RUNGS[rung]): Plan {
  const mistakes = mistakesOfMoves(shot, settings);
  if (mistakes.length > 0) {
    const list = mistakes.map((m) => `${m.path}: ${m.message}`);
    throw new RuddleError('settings-invalid', `This cannot be computed. ${list.join('; ')}.`, {
      issues: mistakes.map(({ path, message }) => ({ path, message })),
    });
  }
  return resolvePlan(shot, settings, rung, voxelFactor);
}
