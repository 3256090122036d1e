import {
  type GasSolve,
  type Settings,
  type SolveInput,
  followersOf,
  settingsSchema,
  gasSolveOf,
  solveSchema,
  withFollowers,
  withSolve,
} from '#core/shot';

type Entries = readonly ({ readonly kind: string; readonly id: string; readonly name: string } & Record<string, unknown>)[];

/** Settings of a solve, written as on its sheet, and of passes after it. */
export function settingsOf(solve: SolveInput = {}, passes: Entries = []): Settings {
  const blank = settingsSchema.parse({});
  const followers = followersOf(settingsSchema.parse({ passes: [...blank.passes, ...passes] }));
  return settingsSchema.parse(withFollowers(withSolve(blank, solveSchema.parse(solve)), followers));
}

/** Settings with some groups of their solve replaced. */
export const withGroups = (settings: Settings, groups: Partial<GasSolve>): Settings =>
  withSolve(settings, { ...gasSolveOf(settings), ...groups });
