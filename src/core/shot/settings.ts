import * as z from 'zod';
import { followedBy } from './moves-schema';
import { type Path, putAtPath, valueAtPath } from './paths';
import { type PassSettings, SOLVE, type SolvePass, passesSchema } from './passes-schema';
import { type SolveKind, type SolveSettings, isLiquid, isSolveKind } from './solve';
import { type GasSolve, sceneSchema } from './solve-settings';

const isSolvePass = (p: { readonly kind: string }): p is SolvePass => isSolveKind(p.kind);

/** A variant's settings: the scene, and the passes that compute in it, in their order. */
export const settingsSchema = z
  .strictObject({ scene: sceneSchema.prefault({}), passes: passesSchema })
  .superRefine(({ scene, passes }, context) => {
    passes.forEach((p, n) => {
      if (!isSolvePass(p)) return;
      for (const { path, message } of followedBy({ ...scene, ...p.settings }).mistakes)
        context.addIssue({ code: 'custom', path: path[0] === 'solids' ? ['scene', ...path] : ['passes', n, 'settings', ...path], message });
    });
  });
export type Settings = z.output<typeof settingsSchema>;

const isSolve = (p: Settings['passes'][number]): p is SolvePass => isSolvePass(p) && p.id === SOLVE;

/**
 * The same solve in the same scene is the same object, whatever happens to the other passes: what is derived from it is derived once. By both of them: a
 * sheet and what it began as can share their solve and differ in the scene, and are asked for in turn.
 */
const solves = new WeakMap<SolvePass['settings'], WeakMap<Settings['scene'], SolveSettings>>();

/** The solve of a shot's settings with the scene that it stands in. */
export function solveOf({ scene, passes }: Settings): SolveSettings {
  const own = passes.find(isSolve)?.settings;
  if (!own) throw new Error('settings without a solve');
  const ofScenes = solves.get(own) ?? new WeakMap<Settings['scene'], SolveSettings>();
  solves.set(own, ofScenes);
  const known = ofScenes.get(scene);
  if (known) return known;
  const solve: SolveSettings = { ...scene, ...own };
  ofScenes.set(scene, solve);
  return solve;
}

/** Settings with another solve, which may bring another scene. */
export function withSolve(settings: Settings, { scale, solids, ...own }: SolveSettings): Settings {
  return {
    scene: { scale, solids },
    // A solve stays of its kind: its settings are of it.
    passes: settings.passes.map((p) => (isSolve(p) ? ({ ...p, settings: own } as typeof p) : p)),
  };
}

const ofPasses = (path: Path): boolean => path[0] === 'passes';

/** The setting at a path: of the solve's sheet (`detail.voxelSize`), or of the passes (`passes[1].settings.width`). */
export const settingAt = (settings: Settings, path: Path): unknown => valueAtPath(ofPasses(path) ? settings : solveOf(settings), path);

/** Settings with the one at such a path replaced; not validated. */
export const withSetting = (settings: Settings, path: Path, value: unknown): Settings =>
  ofPasses(path)
    ? (putAtPath(settings, path, value) as Settings)
    : withSolve(settings, putAtPath(solveOf(settings), path, value) as SolveSettings);

/** Passes that read others, in their order. */
export const followersOf = ({ passes }: Settings): PassSettings[] => passes.filter((p): p is PassSettings => !isSolvePass(p));

/** Settings with other passes after the solve. */
export const withFollowers = (settings: Settings, followers: readonly PassSettings[]): Settings => ({
  ...settings,
  passes: [...settings.passes.filter(isSolvePass), ...followers],
});

/** Settings that begin with nothing but a solve of a kind. */
export const blankSettings = (kind: SolveKind): Settings =>
  settingsSchema.parse({ passes: [{ id: SOLVE, kind, name: 'Solve', settings: {} }] });

/** The gas solve of a shot that has one. Throws when it begins with a liquid. */
export function gasSolveOf(settings: Settings): GasSolve {
  const solve = solveOf(settings);
  if (isLiquid(solve)) throw new Error('settings of a liquid');
  return solve;
}
