import { beforeEach, describe, expect, it, vi } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { navigate } from '#web/state';
import { serve, show } from '#web/testing';
import { Shell } from './shell';

// The views have tests of their own.
vi.mock('#web/views/bench', () => ({ BenchView: ({ slug }: { slug: string }) => <p>Bench of {slug}</p> }));
vi.mock('#web/views/shots', () => ({ ShotsView: () => <p>List of shots</p> }));

const address = (): string => window.location.pathname + window.location.search;
const link = (name: string) => page.getByRole('link', { name });
const WHOLE = '/bench/kiln-lid?variant=v-1&run=run-1&frame=7&group=forces&channel=vel&pass=skin&with=run-2';

beforeEach(() => {
  serve({ 'GET /status': { version: '1', freeBytes: 1, keepBytes: 1, threads: 1, startedAt: 1, found: [] } });
  navigate({
    view: 'bench',
    shot: 'kiln-lid',
    variant: 'v-1',
    run: 'run-1',
    frame: 7,
    group: 'forces',
    channel: 'vel',
    pass: 'skin',
    with: 'run-2',
  });
});

describe('the rail', () => {
  it('goes to Shots with nothing of the Bench, and back to where the Bench was left', async () => {
    await show(<Shell />);
    await expect.element(page.getByText('Bench of kiln-lid')).toBeVisible();
    expect(address()).toBe(WHOLE);
    await link('Shots').click();
    await expect.element(page.getByText('List of shots')).toBeVisible();
    expect(address()).toBe('/shots');
    await link('Bench').click();
    expect(address()).toBe(WHOLE);
  });

  it('so do its keys', async () => {
    await show(<Shell />);
    await userEvent.keyboard('gs');
    expect(address()).toBe('/shots');
    await userEvent.keyboard('gb');
    expect(address()).toBe(WHOLE);
  });

  it('another shot is opened with nothing of the one before', async () => {
    await show(<Shell />);
    await link('Shots').click();
    navigate({ view: 'bench', shot: 'flue' });
    expect(address()).toBe('/bench/flue');
  });
});
