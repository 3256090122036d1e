import { ErrorBoundary } from 'react-error-boundary';
import type { ReactElement } from 'react';
import { describe, expect, it, vi } from 'vitest';
import { page } from 'vitest/browser';
import { render } from 'vitest-browser-react';
import { BrokenPage } from './broken-page';

function Breaks(): ReactElement {
  throw new Error('there is no frame 12');
}

describe('a page that cannot be drawn', () => {
  it('says why, and offers to load it again', async () => {
    const said = vi.spyOn(console, 'error').mockImplementation(() => undefined);
    await render(
      <ErrorBoundary FallbackComponent={BrokenPage}>
        <Breaks />
      </ErrorBoundary>,
    );
    await expect.element(page.getByRole('alert')).toHaveTextContent('there is no frame 12');
    await expect.element(page.getByRole('button', { name: 'Load the page again' })).toBeVisible();
    said.mockRestore();
  });
});
