import { RuddleError } from '#core/errors';
import { type Box3, type PictureMask, type Shape, shapeBounds } from '#core/geometry';
import { type GasChannel, type GasOptions, channelsOf } from '#core/gas';
import { followedBy } from './moves-schema';
import { mistakesOfMoves } from './moved';
import type { Settings, ShapeSettings, SourceSettings } from './settings';
import type { ShotFields } from './shot';

/** How fine a run is: a factor on the voxel size. */
export const RUNGS = { sketch: 4, test: 2, final: 1 } as const;
export type Rung = keyof typeof RUNGS;
export const rungTitle = { sketch: 'Sketch', test: 'Test', final: 'Final' } as const satisfies Record<Rung, string>;

/** What a run does, resolved: SI, no defaults left open. Everything that changes the result is in it, and nothing else. */
export interface Plan {
  readonly pass: 'solve';
  readonly rung: Rung;
  readonly options: GasOptions;
  readonly keep: {
    readonly channels: readonly GasChannel[];
    readonly precision: 'half' | 'full';
    readonly compression: 'blosc' | 'zip' | 'none';
    readonly preRoll: boolean;
  };
  readonly file: { readonly metresPerUnit: number; readonly upAxis: 'y' | 'z'; readonly timeScale: number };
}

/** A limit box when none is set: around sources and solids, with room above and beside for what rises and drifts. */
export function defaultLimit(settings: Settings): Box3 {
  const boxes = [...settings.sources, ...settings.solids].filter((s) => !s.hidden).map((s) => shapeBounds(s.shape));
  if (boxes.length === 0) return { min: [-2, 0, -2], max: [2, 4, 2] };
  const at = (pick: (b: Box3) => number, f: (...v: number[]) => number): number => f(...boxes.map(pick));
  const min = [0, 1, 2].map((a) => at((b) => b.min[a as 0 | 1 | 2], Math.min)) as [number, number, number];
  const max = [0, 1, 2].map((a) => at((b) => b.max[a as 0 | 1 | 2], Math.max)) as [number, number, number];
  const size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]);
  const round = (v: number, f: (x: number) => number): number => f(v * 10) / 10;
  return {
    min: [round(min[0] - size, Math.floor), round(min[1], Math.floor), round(min[2] - size, Math.floor)],
    max: [round(max[0] + size, Math.ceil), round(max[1] + 1.5 * size, Math.ceil), round(max[2] + size, Math.ceil)],
  };
}

/** Largest amount that a source emits: of its number, or of the keys that move it. */
function largest(source: SourceSettings, name: 'density' | 'heat' | 'fuel'): number {
  const move = source.moves[name];
  if (source[name] === null) return 0;
  return move?.kind === 'keys' ? Math.max(...move.keys.map((k) => Math.abs(k.value))) : Math.abs(source[name]);
}

/** What a file was called changes no result. */
function nameless(shape: ShapeSettings): Shape {
  if (shape.kind !== 'mesh') return shape;
  const { file: _file, content: _content, ...rest } = shape;
  return rest;
}

const namelessMask = ({ file: _file, ...mask }: NonNullable<SourceSettings['mask']>): PictureMask => mask;

interface Imports {
  readonly shape: Shape | null;
  readonly mask?: { readonly picture: string } | null;
}

const fingerprints = (items: readonly Imports[]): string[] => [
  ...new Set(items.flatMap(({ shape, mask }) => [...(shape?.kind === 'mesh' ? [shape.geometry] : []), ...(mask ? [mask.picture] : [])])),
];

/** Fingerprints of the imported geometry that a plan needs, and that settings speak of (hidden things too). */
export const geometryOf = ({ options }: Plan): string[] => fingerprints([...options.sources, ...options.solids, ...options.forces.fields]);
export const geometriesOfSettings = ({ sources, solids, forces }: Settings): string[] =>
  fingerprints([...sources, ...solids, ...forces.fields]);

/** Resolves settings at a rung. Lengths of the world stay; only the voxel size takes the rung's factor (a Sketch may take a larger one). */
export function resolvePlan(shot: ShotFields, settings: Settings, rung: Rung, voxelFactor: number = RUNGS[rung]): Plan {
  const { bounds, stepping, forces, matter, keep } = settings;
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
      // The solver's own seconds: fewer of them in a frame make everything slower.
      framesPerSecond: shot.framesPerSecond / shot.timeScale,
      timeScale: shot.timeScale,
      firstFrame: shot.firstFrame,
      lastFrame: shot.lastFrame,
      preRoll: shot.preRoll,
      firstFrameSolved: stepping.firstFrameSolved,
      stepping: {
        cfl: stepping.cfl,
        minimum: stepping.minSubsteps,
        maximum: stepping.maxSubsteps,
        tolerance: stepping.tolerance,
        iterations: stepping.iterations,
      },
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
      solids: settings.solids
        .filter((s) => !s.hidden)
        .map(({ name: _name, hidden: _hidden, ...solid }) => ({
          ...solid,
          shape: nameless(solid.shape),
          voxelSize: solid.voxelSize === null ? null : solid.voxelSize * voxelFactor,
        })),
      followed: followedBy(settings).followed,
      forces: {
        ...forces,
        fields: forces.fields
          .filter((f) => !f.hidden)
          .map(({ name: _name, hidden: _hidden, ...field }) => ({ ...field, shape: field.shape && nameless(field.shape) })),
      },
      matter,
    },
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
export function planToRun(shot: ShotFields, settings: Settings, rung: Rung, voxelFactor: number = RUNGS[rung]): Plan {
  const mistakes = mistakesOfMoves(shot, settings);
  if (mistakes.length > 0) {
    const list = mistakes.map((m) => `${m.path}: ${m.message}`);
    throw new RuddleError('settings-invalid', `This cannot be computed. ${list.join('; ')}.`, {
      issues: mistakes.map(({ path, message }) => ({ path, message })),
    });
  }
  return resolvePlan(shot, settings, rung, voxelFactor);
}
