import { describe, expect, it } from 'vitest';
import { RuddleError, fromErrorData, isRuddleError, toErrorData } from '.';

describe('tagged errors', () => {
  it('cross a boundary as data and come back as themselves', () => {
    const error = new RuddleError('not-finite', 'It broke.', { frame: 3, substep: 2, channel: 'vel' }, new Error('why'));
    const back = fromErrorData(structuredClone(toErrorData(error)));
    expect(isRuddleError(back, 'not-finite')).toBe(true);
    expect(back.message).toBe('It broke.');
    expect(back.fields).toEqual({ frame: 3, substep: 2, channel: 'vel' });
    expect(back.cause).toBe('why');
  });
  it('what is not tagged becomes internal, with the place', () => {
    const data = toErrorData(new TypeError('x is not a function'));
    expect(data).toMatchObject({ tag: 'internal', message: 'x is not a function' });
    expect(String(data.fields['where'])).toContain('errors.test');
    expect(toErrorData('just text')).toMatchObject({ tag: 'internal', message: 'just text' });
    expect(isRuddleError(new Error('no'))).toBe(false);
  });
});
