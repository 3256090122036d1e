import { Chain } from '#core/passes';
import type { Settings } from '#core/shot';
import type { PassRunDto } from '#protocol';
import { makeRun, makeShot } from './shots';

/** A Test of a pass as it comes out of these settings: all frames, as the made-up shot's Test has them. */
export function makePassRun(settings: Settings, id: string, changes: Partial<PassRunDto> = {}): PassRunDto {
  const resolved = new Chain(makeShot().fields, settings, { run: () => null, folder: () => null }).entry(id, 'test');
  if (resolved.plan === null) throw new Error(resolved.problem);
  const { plan, key } = resolved;
  const { plan: _solve, ...run } = makeRun();
  return { ...run, id: `run-${id}`, number: 2, passId: id, kind: plan.pass, plan, key, inputs: ['run-1'], ...changes };
}
