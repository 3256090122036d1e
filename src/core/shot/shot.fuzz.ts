import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { findForSheet } from '#core/checks';
import { knowledgeOf, predict } from '#core/cost';
import { isRuddleError } from '#core/errors';
import { leastBytes } from '#core/gas';
import { fuzz, spoiltJson, within } from '#testing/fuzz';
import { type GasPlan, type ShotFile, canonicalJson, optionsOf, parseShotFile, resolvePlan, runKey, gasSolveOf } from '.';

const demo = ['kiln-stack', 'kiln-door', 'crusher-dust'].map((name) => JSON.parse(readFileSync(`demo/${name}.json`, 'utf8')) as unknown);
const blind = knowledgeOf([], 2);

/** The shot, or null when it was refused as it should be. */
function read(text: string): ShotFile | null {
  try {
    return parseShotFile(text, 'fuzz.json');
  } catch (error) {
    if (!isRuddleError(error, 'settings-invalid') && !isRuddleError(error, 'file-invalid')) throw error;
    // What is refused says where.
    if (isRuddleError(error, 'settings-invalid')) expect(error.fields.issues.length).toBeGreaterThan(0);
    expect(error.message.length).toBeLessThan(20_000);
    return null;
  }
}

function planOf(shot: ShotFile, variant: ShotFile['variants'][number], rung: 'sketch' | 'test' | 'final'): GasPlan | null {
  try {
    return resolvePlan(shot, gasSolveOf(variant.settings), rung);
  } catch (error) {
    if (!isRuddleError(error)) throw error;
    return null;
  }
}

it('a spoilt shot file is refused with its places, or is a shot that can be planned, predicted and checked', () => {
  let [valid, refused] = [0, 0];
  fc.assert(
    fc.property(spoiltJson(...demo), (file) => {
      within(3000, () => {
        const shot = read(JSON.stringify(file));
        if (!shot) {
          refused++;
          return;
        }
        valid++;
        // What was read is read the same again.
        expect(canonicalJson(read(JSON.stringify(shot)))).toBe(canonicalJson(shot));
        for (const variant of shot.variants.slice(0, 2)) {
          const plan = planOf(shot, variant, 'test');
          if (!plan) continue;
          expect(runKey(plan)).toMatch(/^[0-9a-f]+$/);
          const prediction = predict(plan, [], blind);
          for (const range of [prediction.voxels, prediction.memory, prediction.disk]) {
            expect(Object.values(range).every(Number.isFinite), JSON.stringify(range)).toBe(true);
          }
          // Infinity for what no window could hold; 0 for bounds that nothing fills.
          for (const o of optionsOf(plan)) expect(leastBytes(o)).toBeGreaterThanOrEqual(0);
          findForSheet({
            shot,
            settings: gasSolveOf(variant.settings),
            rung: 'test',
            run: null,
            prediction,
            spent: { seconds: 0, bytes: 0 },
          });
        }
      });
    }),
    fuzz(2500),
  );
  // Neither of the two ways is the only one that was gone.
  expect(Math.min(valid, refused)).toBeGreaterThan(50);
});

it('text that is no JSON, or JSON that is no shot, is refused', () => {
  const text = JSON.stringify(demo[0]);
  fc.assert(
    fc.property(
      fc.oneof(
        fc.tuple(fc.nat(text.length), fc.string({ maxLength: 4 })).map(([n, s]) => text.slice(0, n) + s),
        fc.json({ maxDepth: 4 }),
        fc.string(),
        fc.nat(3000).map((n) => '['.repeat(n)),
      ),
      (t) => {
        within(1000, () => read(t));
      },
    ),
    fuzz(600),
  );
});
