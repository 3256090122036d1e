import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider, createTheme } from '@mui/material/styles';
import { QueryClientProvider } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { type RenderResult, render } from 'vitest-browser-react';
import { queryClient } from '#web/state';
import { makeTheme } from '#web/ui';

/** Nothing moves: what is pressed is where it is seen. */
const theme = createTheme(makeTheme('dark'), { transitions: { create: () => 'none' } });

/** Puts a component into the page as the application does: its theme, its queries, nothing kept from the test before. */
export async function show(component: ReactElement): Promise<RenderResult> {
  queryClient.clear();
  return await render(
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={queryClient}>{component}</QueryClientProvider>
    </ThemeProvider>,
  );
}
