import { describe, expect, it } from 'vitest';
import { type HeldSkin, heldOf } from './held-skin';

const held = { shot: 'shot-1', pass: 'skin', frame: 4 } as HeldSkin;

describe('a skin that is held', () => {
  it('is shown in its pass of its shot: the pass of that id in another shot is another', () => {
    expect(heldOf(held, 'shot-1', 'skin')).toBe(held);
    expect([
      heldOf(held, 'shot-2', 'skin'),
      heldOf(held, 'shot-1', 'skin-2'),
      heldOf(held, 'shot-1', undefined),
      heldOf(null, 'shot-1', 'skin'),
    ]).toEqual([null, null, null, null]);
  });
});
