import { availableParallelism, totalmem } from 'node:os';
import { describe, expect, it } from 'vitest';
import { readConfig } from '.';

const read = (env: NodeJS.ProcessEnv = {}) => readConfig({ RUDDLE_ROOT: '/house', ...env });

describe('settings of the environment', () => {
  it('without any: the data beside the house, all cores, the demo and a calibration', () => {
    expect(read()).toMatchObject({
      root: '/house',
      data: '/house/.ruddle',
      threads: Math.min(64, availableParallelism()),
      demo: '/house/demo',
      calibrate: true,
    });
    expect(read().keepBytes).toBeGreaterThan(1e8);
    expect(read().memoryBytes).toBeGreaterThan(0.2 * totalmem());
    expect(read().memoryBytes).toBeLessThan(totalmem());
  });

  it('are taken', () => {
    expect(
      read({
        RUDDLE_DATA: '/caches',
        RUDDLE_THREADS: '3',
        RUDDLE_KEEP_BYTES: '0',
        RUDDLE_MEMORY: '5000',
        RUDDLE_DEMO: '0',
        RUDDLE_CALIBRATE: '0',
      }),
    ).toMatchObject({ data: '/caches', threads: 3, memoryBytes: 5000, keepBytes: 0, demo: null, calibrate: false });
    expect(read({ RUDDLE_THREADS: '400' }).threads).toBe(64);
    expect(read({ RUDDLE_THREADS: ' ' }).threads).toBe(read().threads);
  });

  it.each([
    ['RUDDLE_THREADS', '0'],
    ['RUDDLE_THREADS', '1.5'],
    ['RUDDLE_THREADS', 'all'],
    ['RUDDLE_MEMORY', '0'],
    ['RUDDLE_KEEP_BYTES', '-1'],
    ['RUDDLE_KEEP_BYTES', '2GB'],
    ['RUDDLE_KEEP_BYTES', '1e400'],
  ])('%s="%s" is refused by its name, instead of becoming something else', (name, text) => {
    expect(() => read({ [name]: text })).toThrow(`${name} is "${text}"; it must be a whole number`);
  });
});
