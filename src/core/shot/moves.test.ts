import { describe, expect, it } from 'vitest';
import { mistakesOfMoves, movedItem } from './moved';
import { followedBy, movablePaths } from './moves-schema';
import { resolvePlan } from './plan';
import { runKey } from './key';
import { solidSchema, sourceSchema } from './items';
import { type SettingsInput, settingsSchema } from './settings';
import { parseWith, shotFieldsSchema } from './shot';

const shot = shotFieldsSchema.parse({ name: 'Door', lastFrame: 24 });
const settings = (moves: Record<string, unknown>, more: object = {}): SettingsInput =>
  ({ sources: [{ shape: { kind: 'ball' }, moves }], ...more }) as SettingsInput;
const said = (input: SettingsInput): string[] =>
  (settingsSchema.safeParse(input).error?.issues ?? []).map((i) => `${i.path.join('.')}: ${i.message}`);
const typed = (text: string): { kind: 'expression'; text: string } => ({ kind: 'expression', text });

describe('moves of settings', () => {
  it('are allowed for the numbers that can move, and for no others', () => {
    expect(movablePaths(solidSchema)).toEqual([
      'shape.centre.x',
      'shape.centre.y',
      'shape.centre.z',
      'shape.size.x',
      'shape.size.y',
      'shape.size.z',
      'shape.rotation.x',
      'shape.rotation.y',
      'shape.rotation.z',
      'shape.radius',
      'shape.height',
    ]);
    expect(movablePaths(sourceSchema)).toContain('noise.amount');
    expect(said(settings({ heat: typed('100 * time') }))).toEqual([]);
    expect(said(settings({ mode: typed('1') }))).toEqual(['sources.0.moves.mode: there is no number "mode" here that could move']);
  });

  it('are refused with the column, the order of keys, or the circle', () => {
    expect(said(settings({ heat: typed('100 * tim') }))).toEqual(['sources.0.moves.heat.text: column 7: "tim" is not known']);
    const keys = [5, 3].map((frame) => ({ frame, value: 1 }));
    expect(said(settings({ heat: { kind: 'keys', keys } }))[0]).toContain('3 stands after 5');
    expect(said(settings({ heat: typed('sources[4].heat') }))[0]).toContain('there is no number "sources[4].heat"');
    expect(said(settings({ heat: typed('sources[0].density * 2'), density: typed('sources[0].heat / 2') }))[0]).toContain(
      'a circle: sources[0].heat → sources[0].density → sources[0].heat',
    );
    expect(said(settings({ heat: typed('sources[0].heat + 1') }))[0]).toContain('a circle');
  });

  it('take what they follow into the plan, and into its key', () => {
    const follow = (sinking: number): ReturnType<typeof resolvePlan> =>
      resolvePlan(shot, settingsSchema.parse(settings({ heat: typed('matter.sinking * 100') }, { matter: { sinking } })), 'final');
    expect(follow(2).options.followed).toEqual({ 'matter.sinking': { value: 2, move: null } });
    const plain = resolvePlan(shot, settingsSchema.parse(settings({})), 'final');
    const moving = resolvePlan(shot, settingsSchema.parse(settings({ heat: typed('value') })), 'final');
    expect(runKey(plain, 'k')).not.toBe(runKey(moving, 'k'));
  });

  it('are looked through before a run for numbers that are none', () => {
    const bad = settingsSchema.parse(settings({ heat: typed('1 / (frame - 12)') }));
    expect(mistakesOfMoves(shot, bad)).toEqual([
      {
        path: 'sources[0].moves.heat',
        frame: 12,
        message: 'has no number at frame 12: a division by zero, or a root or logarithm of what has none',
      },
    ]);
    expect(mistakesOfMoves(shot, settingsSchema.parse(settings({ heat: typed('1 / (frame + 100)') })))).toEqual([]);
  });

  it('turn a door about its hinge', () => {
    const door = solidSchema.parse({
      shape: { kind: 'box', centre: [1, 1, 0], size: [2, 2, 0.1] },
      turnsAbout: [0, 1, 0],
      moves: { 'shape.rotation.y': typed('-90 * time') },
    });
    const { followed } = followedBy({});
    const open = movedItem(door, { time: 1, firstFrame: 1, framesPerSecond: 24 }, followed).shape;
    expect(open.centre.map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([0, 1, 1]);
  });

  it('say the place in a shot file', () => {
    expect(() => parseWith(settingsSchema, settings({ heat: typed('1 +') }), 'This')).toThrow(
      /sources\[0\]\.moves\.heat\.text: .*column 4/,
    );
  });
});
