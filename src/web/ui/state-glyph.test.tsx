import { expect, it } from 'vitest';
import { page } from 'vitest/browser';
import { show } from '#web/testing';
import { StateGlyph, stateTitle } from './state-glyph';

const STATES = Object.keys(stateTitle) as (keyof typeof stateTitle)[];

it('every state has a name and a shape of its own: never colour alone', async () => {
  await show(
    <>
      {STATES.map((s) => (
        <StateGlyph key={s} state={s} />
      ))}
    </>,
  );
  const shapes = STATES.map((s) => {
    const glyph = page.getByRole('img', { name: stateTitle[s], exact: true }).element();
    // Without its colours.
    return glyph.innerHTML.replace(/(fill|stroke)="(?!none)[^"]*"/g, '$1');
  });
  expect(new Set(shapes).size).toBe(STATES.length);
});
