import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { type AnyPlan, Chain, type FollowerPlan, broughtUp, formerKey, isSolvePlan, kindOf, opsOf } from '#core/passes';
import { type Settings, type ShotFile, followersOf, parseShotFile, resolvePlan, settingsSchema, solveOf, withFollowers } from '#core/shot';

const shots = ['gas', 'liquid'].map((kind): ShotFile => {
  const file = `src/workers/fixtures/golden-${kind}.json`;
  return parseShotFile(readFileSync(file, 'utf8'), file);
});
const settingsOf = (shot: ShotFile): Settings => shot.variants[0]!.settings;

/** Plans of all passes of a shot. */
function plansOf(shot: ShotFile, settings = settingsOf(shot)): AnyPlan[] {
  const chain = new Chain(shot, settings, { run: () => null, folder: () => null });
  return [
    resolvePlan(shot, solveOf(settings), 'test'),
    ...followersOf(settings).map((p) => {
      const entry = chain.entry(p.id, 'test');
      if (entry.problem !== null) throw new Error(entry.problem);
      return entry.plan;
    }),
  ];
}
const keysOf = (shot: ShotFile, settings?: Settings): Record<string, string> =>
  Object.fromEntries(plansOf(shot, settings).map((plan) => [kindOf(plan), opsOf(plan).key(plan)]));
const all = shots.flatMap((shot) => plansOf(shot));

/** The settings with every name another one. */
function renamed(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(renamed);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, k === 'name' ? `Another ${String(v)}` : renamed(v)]));
}

/** Every plan that differs from one in a single value, with where. */
function* changed(value: unknown, at: readonly string[] = []): Generator<{ readonly at: string; readonly value: unknown }> {
  if (Array.isArray(value)) {
    for (const [n, v] of value.entries())
      for (const c of changed(v, [...at, String(n)])) yield { at: c.at, value: value.map((w: unknown, m) => (m === n ? c.value : w)) };
    if (value.length > 0) yield { at: at.join('.'), value: [...(value as unknown[]), value[0]] };
  } else if (typeof value === 'object' && value !== null) {
    for (const [k, v] of Object.entries(value))
      for (const c of changed(v, [...at, k])) yield { at: c.at, value: { ...value, [k]: c.value } };
  } else
    yield { at: at.join('.'), value: typeof value === 'number' ? value + 1 : typeof value === 'boolean' ? !value : `${String(value)}x` };
}

describe('run keys', () => {
  it('there is a plan of every kind to look at', () => {
    expect(new Set(all.map(kindOf)).size).toBe(11);
  });

  it('know no names', () => {
    for (const shot of shots) {
      const other = settingsSchema.parse(renamed(settingsOf(shot)));
      expect(other).not.toEqual(settingsOf(shot));
      expect(keysOf({ ...shot, name: 'Another' }, other)).toEqual(keysOf(shot));
    }
  });

  it('are those of a longer range', () => {
    for (const shot of shots) expect(keysOf({ ...shot, lastFrame: shot.lastFrame + 7 })).toEqual(keysOf(shot));
  });

  it('do not depend on passes that are not read, nor on their order', () => {
    for (const shot of shots) {
      const followers = followersOf(settingsOf(shot));
      const unread = { ...followers[0]!, id: 'unread' };
      const settings = withFollowers(settingsOf(shot), [unread, ...[...followers].reverse()] as never);
      expect(keysOf(shot, settings)).toEqual(keysOf(shot));
    }
  });

  it('change with everything else', () => {
    // A name, the last frame, and what is said of the cache but does not decide about it.
    const free = (plan: AnyPlan, at: string): boolean =>
      isSolvePlan(plan)
        ? /^(?:options|beside\.\d+)\.(?:lastFrame|sources\.\d+\.name)$/.test(at)
        : /^(?:rung$|gives\b|frames\.last$|body\.options\.(?:lastFrame|sources\.\d+\.name)$|body\.given\.last$)/.test(at);
    let looked = 0;
    for (const plan of all) {
      const { key } = opsOf(plan);
      const own = key(plan);
      for (const { at, value } of changed(plan)) {
        // Which solver it is decides which of them is asked.
        if (at === 'pass') continue;
        looked++;
        const same = key(value as AnyPlan) === own;
        if (same !== free(plan, at)) expect.unreachable(`${kindOf(plan)}: ${at} ${same ? 'changes no key' : 'changes the key'}`);
      }
    }
    expect(looked).toBeGreaterThan(800);
  });

  it('say which frames a longer range would change: those that read ahead', () => {
    const ends = Object.fromEntries(all.map((plan) => [kindOf(plan), opsOf(plan).unsettled(plan)]));
    expect(ends).toMatchObject({ gas: [], liquid: [], held: [], detail: [], surface: [3], fed: [] });
    const fed = all.find((p) => kindOf(p) === 'fed') as FollowerPlan;
    const sparse = { ...fed, body: { ...(fed.body as object), given: { first: 1, last: 4, every: 3 } } };
    expect(opsOf(sparse).unsettled(sparse)).toEqual([3, 4]);
  });
});

describe('keys of an earlier Ruddle', () => {
  const former = JSON.parse(readFileSync('src/core/passes/fixtures/former-runs.json', 'utf8')) as {
    readonly pass: string;
    readonly key: string;
    readonly plan: AnyPlan;
  }[];

  it('were made as it is written down here', () => {
    for (const { pass, key, plan } of former) expect(formerKey(plan), pass).toBe(key);
  });

  it('become those that the same settings have now, down the chain; what comes out otherwise stays stale', () => {
    const names = new Map<string, string>();
    const fresh: Record<string, boolean> = {};
    const order = (plan: AnyPlan): number => (isSolvePlan(plan) ? 0 : kindOf(plan) === 'particles' ? 1 : 2);
    for (const { key, plan } of [...former].sort((a, b) => order(a.plan) - order(b.plan))) {
      const now = broughtUp(plan, key, names);
      if (now) names.set(key, now.key);
      const wanted = all.find((p) => kindOf(p) === kindOf(plan))!;
      fresh[kindOf(plan)] = now?.key === opsOf(wanted).key(wanted);
    }
    expect(fresh).toEqual({
      gas: true,
      // Its surface is another, and so is the skin of it.
      liquid: false,
      resample: true,
      detail: true,
      held: true,
      retime: true,
      surface: false,
      stills: true,
      particles: true,
      // It falls, with another gravity.
      refill: false,
      fed: true,
    });
    expect(broughtUp(former[0]!.plan, 'another', names)).toBeNull();
  });

  it('of a source that ended by rounding are not', () => {
    const of = (kind: string) => former.find((f) => kindOf(f.plan) === kind)!.plan as never as { options: { sources: object[] } };
    const gas = of('gas');
    const until = (to: number): AnyPlan =>
      ({ ...gas, options: { ...gas.options, sources: gas.options.sources.map((s) => ({ ...s, to })) } }) as unknown as AnyPlan;
    const kept = Array.from({ length: 60 }, (_v, n) => until(n + 1)).map((p) => broughtUp(p, formerKey(p), new Map()) !== null);
    expect(kept).toContain(true);
    expect(kept).toContain(false);
  });
});
