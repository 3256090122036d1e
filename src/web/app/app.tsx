import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import { QueryClientProvider } from '@tanstack/react-query';
import { type ReactElement, useEffect, useMemo } from 'react';
import { ErrorBoundary } from 'react-error-boundary';
import { connectEvents, queryClient, useThemeMode } from '#web/state';
import { makeTheme } from '#web/ui';
import { BrokenPage } from './broken-page';
import { Shell } from './shell';

export function App(): ReactElement {
  const mode = useThemeMode();
  const theme = useMemo(() => makeTheme(mode), [mode]);
  useEffect(() => {
    document.documentElement.dataset['theme'] = mode;
  }, [mode]);
  useEffect(() => connectEvents(), []);
  return (
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={queryClient}>
        <ErrorBoundary FallbackComponent={BrokenPage}>
          <Shell />
        </ErrorBoundary>
      </QueryClientProvider>
    </ThemeProvider>
  );
}
