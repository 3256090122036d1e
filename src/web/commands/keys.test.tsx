import Dialog from '@mui/material/Dialog';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import type { ReactElement } from 'react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { show } from '#web/testing';
import { commands } from './registry';
import { useCommandKeys } from './keys';

const run = { play: vi.fn(), test: vi.fn(), shots: vi.fn(), undo: vi.fn(), palette: vi.fn() };
let takeBack = (): void => undefined;

function Page(): ReactElement {
  useCommandKeys();
  return (
    <>
      <input aria-label="Text" />
      <button>Button</button>
      <div role="option" tabIndex={0} aria-selected={false}>
        Option
      </div>
      <canvas role="slider" aria-valuenow={1} tabIndex={0} aria-label="Frames" />
    </>
  );
}

beforeEach(async () => {
  takeBack = commands.register([
    { id: 'play', title: 'Play', keys: ' ', run: run.play },
    { id: 'test', title: 'Test', keys: 'Shift+t', run: run.test },
    { id: 'shots', title: 'Shots', keys: 'g s', run: run.shots },
    { id: 'undo', title: 'Undo', keys: 'Ctrl+z', run: run.undo },
    { id: 'palette', title: 'Palette', keys: 'Ctrl+k', run: run.palette },
  ]);
  await show(<Page />);
});
afterEach(() => {
  takeBack();
  vi.clearAllMocks();
});

describe('keys of commands', () => {
  it('with Shift, with Ctrl, and one after the other', async () => {
    await userEvent.keyboard('t');
    expect(run.test).not.toHaveBeenCalled();
    await userEvent.keyboard('{Shift>}t{/Shift}{Control>}z{/Control}gs');
    expect([run.test, run.undo, run.shots].map((f) => f.mock.calls.length)).toEqual([1, 1, 1]);
    await userEvent.keyboard('s');
    expect(run.shots).toHaveBeenCalledOnce();
  });

  it('in a text, its letters and its own undo are the text’s; the palette still opens', async () => {
    await page.getByRole('textbox').click();
    await userEvent.keyboard('gs {Shift>}t{/Shift}{Control>}z{/Control}{Control>}k{/Control}');
    expect([run.shots, run.play, run.test, run.undo, run.palette].map((f) => f.mock.calls.length)).toEqual([0, 0, 0, 0, 1]);
  });

  it('Space on a button presses the button and does not play', async () => {
    page.getByRole('button').element().focus();
    await userEvent.keyboard(' ');
    expect(run.play).not.toHaveBeenCalled();
    page.getByRole('button').element().blur();
    await userEvent.keyboard(' ');
    expect(run.play).toHaveBeenCalledOnce();
  });

  it('Space on what can be picked picks it; on a strip of frames it plays', async () => {
    page.getByRole('option').element().focus();
    await userEvent.keyboard(' ');
    expect(run.play).not.toHaveBeenCalled();
    page.getByRole('slider').element().focus();
    await userEvent.keyboard(' ');
    expect(run.play).toHaveBeenCalledOnce();
  });

  it.each([
    [
      'a dialog',
      <Dialog key="d" open>
        <p>Sure?</p>
        <button>Yes</button>
      </Dialog>,
      'button',
    ],
    [
      'an open menu',
      <Menu key="m" open anchorEl={document.body}>
        <MenuItem>One</MenuItem>
      </Menu>,
      'menuitem',
    ],
  ] as const)('behind %s nothing is run', async (_what, over, role) => {
    await show(
      <>
        <Page />
        {over}
      </>,
    );
    await expect.element(page.getByRole(role).first()).toBeVisible();
    await userEvent.keyboard('{Shift>}t{/Shift}gs {Control>}k{/Control}{Control>}z{/Control}');
    // Nor where the pointer has left the focus on no control of it.
    document.querySelector<HTMLElement>('.MuiModal-root [tabindex="-1"]')?.focus();
    await userEvent.keyboard('{Shift>}t{/Shift} ');
    for (const command of Object.values(run)) expect(command).not.toHaveBeenCalled();
  });

  it('what was taken back is not run any more; what replaced it is', async () => {
    const other = vi.fn();
    const takeOther = commands.register([{ id: 'test', title: 'Test', keys: 'Shift+t', run: other }]);
    // The older registration goes: it must not take the newer one with it.
    takeBack();
    await userEvent.keyboard('{Shift>}t{/Shift}');
    expect([run.test.mock.calls.length, other.mock.calls.length]).toEqual([0, 1]);
    takeOther();
    await userEvent.keyboard('{Shift>}t{/Shift}');
    expect(other).toHaveBeenCalledOnce();
  });
});
