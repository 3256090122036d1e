import { describe, expect, it } from 'vitest';
import { processorSeconds } from '#testing/values';
import { mistakesOfMoves, movedItem } from './moved';
import { followedBy, movablePaths } from './moves-schema';
import { resolvePlan } from './plan';
import { runKey } from './key';
import { solidSchema, sourceSchema } from './items';
import { type SolveInput, solveSchema } from './solve-settings';
import { parseWith, shotFieldsSchema } from './shot';

const shot = shotFieldsSchema.parse({ name: 'Door', lastFrame: 24 });
const settings = (moves: Record<string, unknown>, more: object = {}): SolveInput =>
  ({ sources: [{ shape: { kind: 'ball' }, moves }], ...more }) as SolveInput;
const said = (input: SolveInput): string[] =>
  (solveSchema.safeParse(input).error?.issues ?? []).map((i) => `${i.path.join('.')}: ${i.message}`);
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
      resolvePlan(shot, solveSchema.parse(settings({ heat: typed('matter.sinking * 100') }, { matter: { sinking } })), 'final');
    expect(follow(2).options.followed).toEqual({ 'matter.sinking': { value: 2, move: null } });
    const plain = resolvePlan(shot, solveSchema.parse(settings({})), 'final');
    const moving = resolvePlan(shot, solveSchema.parse(settings({ heat: typed('value') })), 'final');
    expect(runKey(plain)).not.toBe(runKey(moving));
  });

  it('are looked through before a run for numbers that are none', () => {
    const bad = solveSchema.parse(settings({ heat: typed('1 / (frame - 12)') }));
    expect(mistakesOfMoves(shot, bad)).toEqual([
      {
        path: 'sources[0].moves.heat',
        frame: 12,
        message: 'has no number at frame 12: a division by zero (column 3)',
        range: null,
      },
    ]);
    expect(mistakesOfMoves(shot, solveSchema.parse(settings({ heat: typed('1 / (frame + 100)') })))).toEqual([]);
  });

  it('say what makes a number none: an overflow, a root, a logarithm, what it reads; with the column and a frame of the shot', () => {
    const said = (text: string, more: Record<string, unknown> = {}): string[] =>
      mistakesOfMoves(shot, solveSchema.parse(settings({ heat: typed(text), ...more }))).map((m) => m.message);
    expect(said('2 * exp(1000 * time) / exp(1000 * time)')).toEqual([
      'has no number at frame 19: an overflow: exp of 718.75 is larger than any number (column 5)',
    ]);
    expect(said('1e200 * value * 1e200')[0]).toMatch(/at frame 1: an overflow: the result is larger than any number \(column 15\)/);
    expect(said('sqrt(-1 - time)')[0]).toMatch(/the root of -0\.\d+ \(column 1\)/);
    expect(said('log(0)')[0]).toMatch(/the logarithm of 0/);
    expect(said('0 ^ -1')[0]).toMatch(/a division by zero/);
    expect(said('1 + sources[0].density', { density: typed('1 / 0') })).toEqual([
      'has no number at frame 1: sources[0].density has no value there (column 5)',
      'has no number at frame 1: a division by zero (column 3)',
    ]);
  });

  it('may not leave the range of their number, unless they are held', () => {
    const check = (move: object): { frame: number; message: string }[] =>
      mistakesOfMoves(shot, solveSchema.parse({ sources: [{ shape: { kind: 'ball' }, moves: { density: move } }] }));
    expect(check(typed('value - 100 * frame'))).toEqual([
      { path: 'sources[0].moves.density', frame: 11, message: 'is -1024 at frame 11; it can be -1000 to 1000', range: [-1000, 1000] },
    ]);
    expect(check({ ...typed('value - 100 * frame'), limits: [-5, 2] })).toEqual([]);
    const size = { sources: [{ shape: { kind: 'box' }, moves: { 'shape.size.x': typed('-5 * time') } }] };
    expect(mistakesOfMoves(shot, solveSchema.parse(size))[0]).toMatchObject({ frame: 1, range: [0.001, 1e5] });
    const held = solveSchema.parse({
      sources: [{ shape: { kind: 'ball' }, moves: { density: { ...typed('time'), limits: [0.1, 0.5] } } }],
    });
    const at = (time: number): number | null => movedItem(held.sources[0]!, { time, firstFrame: 1, framesPerSecond: 24 }, {}).density;
    expect([at(0), at(0.25), at(3)]).toEqual([0.1, 0.25, 0.5]);
    expect(said({ sources: [{ shape: { kind: 'ball' }, moves: { density: { ...typed('1'), limits: [2, 1] } } }] })[0]).toContain(
      'the lower limit must not lie above the upper one',
    );
  });

  it('that read each other are worked out once each, however many ways lead to them', async () => {
    // 32 sources in a chain, each read six times by the next: 6^31 ways.
    const sources = Array.from({ length: 32 }, (_v, n) => ({
      shape: { kind: 'ball' as const },
      moves: { density: typed(n === 0 ? 'time' : Array.from({ length: 6 }, () => `sources[${String(n - 1)}].density / 6`).join(' + ')) },
    }));
    const seconds = await processorSeconds(() => {
      const chain = solveSchema.parse({ sources });
      expect(mistakesOfMoves(shot, chain)).toEqual([]);
      const { followed } = followedBy(chain);
      expect(movedItem(chain.sources[31]!, { time: 0.5, firstFrame: 1, framesPerSecond: 24 }, followed).density).toBeCloseTo(0.5, 9);
    });
    expect(seconds).toBeLessThan(1.5);
  });

  it('are looked through in a moment, however long the shot and however many there are', async () => {
    const long = shotFieldsSchema.parse({ name: 'Long', firstFrame: -1e5, lastFrame: 1e5 });
    const solids = Array.from({ length: 64 }, () => ({
      shape: { kind: 'ball' as const },
      moves: { 'shape.centre.x': typed('sin(time) + noise(time)') },
    }));
    const many = solveSchema.parse({ solids });
    const seconds = await processorSeconds(() => {
      expect(mistakesOfMoves(long, many)).toEqual([]);
    });
    expect(seconds).toBeLessThan(4);
  });

  it('read numbers of the settings and nothing else', () => {
    for (const path of [
      'sources.length',
      'sources[0].moves.heat.keys',
      'sources[0].name.length',
      'solids.length',
      'matter.constructor.length',
    ]) {
      expect(said(settings({ heat: typed(path.includes('.') ? path : `${path} + 0`) }))[0], path).toContain(`there is no number "${path}"`);
    }
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
    expect(() => parseWith(solveSchema, settings({ heat: typed('1 +') }), 'This')).toThrow(/sources\[0\]\.moves\.heat\.text: .*column 4/);
  });
});
