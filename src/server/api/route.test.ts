import { describe, expect, it } from 'vitest';
import { match } from './route';

describe('addresses', () => {
  it('give their parameters', () => {
    expect(match('/runs/:run/frames/:frame/:channel', '/runs/aB3/frames/-12/density')).toEqual({
      run: 'aB3',
      frame: '-12',
      channel: 'density',
    });
    expect(match('/shots', '/shots/x')).toBeNull();
  });
  it('that point elsewhere are no match', () => {
    for (const bad of ['..', '%2e%2e', 'a%2fb', 'a\\b', '.', 'a.b', '', 'x'.repeat(65)]) {
      expect(match('/runs/:run', `/runs/${bad}`)).toBeNull();
    }
  });
});
