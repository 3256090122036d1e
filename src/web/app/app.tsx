import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import { QueryClientProvider } from '@tanstack/react-query';
import { type ReactElement, useEffect, useMemo } from 'react';
import { connectEvents, queryClient, useThemeMode } from '#web/state';
import { makeTheme } from '#web/ui';
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
        <Shell />
      </QueryClientProvider>
    </ThemeProvider>
  );
}
