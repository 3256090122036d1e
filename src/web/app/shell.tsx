import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Tooltip from '@mui/material/Tooltip';
import { lazy, type ReactElement, Suspense, useEffect, useState } from 'react';
import { type Route, linkTo, navigate, say, setThemeMode, useConnection, useRoute, useStatus, useThemeMode } from '#web/state';
import { Icon, type IconName, Loading, Mark, useColours } from '#web/ui';
import { useCommandKeys, useCommands } from '#web/commands';
import { ShotsView } from '#web/views/shots';
import { Notices } from './notices';
import type { Palette as PaletteView } from './palette';

// Three.js comes with the Bench only.
const BenchView = lazy(() => import('#web/views/bench').then((m) => ({ default: m.BenchView })));

interface RailItem {
  readonly view: Route['view'];
  readonly title: string;
  readonly icon: IconName;
}
/** A view without what another one was looking at. */
const NOTHING: Omit<Route, 'view'> = {
  shot: null,
  variant: null,
  run: null,
  frame: null,
  group: null,
  channel: null,
  pass: null,
  with: null,
};

const RAIL: readonly RailItem[] = [
  { view: 'shots', title: 'Shots', icon: 'shots' },
  { view: 'bench', title: 'Bench', icon: 'bench' },
];

export function Shell(): ReactElement {
  const route = useRoute();
  const c = useColours();
  const mode = useThemeMode();
  const live = useConnection((s) => s.live);
  /** null until it is opened for the first time. */
  const [palette, setPalette] = useState<'closed' | 'commands' | 'keys' | null>(null);
  /** Where the Bench was left: back there it shows the same. */
  const [lastBench, setLastBench] = useState<Route | null>(route.view === 'bench' ? route : null);
  const Palette = usePalette();
  useCommandKeys();
  useFoundNotice();

  useEffect(() => {
    if (route.view === 'bench') setLastBench(route);
  }, [route]);
  useCommands([
    { id: 'go-shots', title: 'Go to Shots', keys: 'g s', run: () => navigate({ ...NOTHING, view: 'shots' }) },
    {
      id: 'go-bench',
      title: 'Go to the Bench',
      keys: 'g b',
      run: () => {
        if (lastBench !== null && route.view !== 'bench') navigate(lastBench);
      },
    },
    { id: 'palette', title: 'Command palette', keys: 'Ctrl+k', run: () => setPalette('commands') },
    { id: 'keys', title: 'All keys', keys: '?', run: () => setPalette('keys') },
    { id: 'theme', title: 'Dark or light', keys: null, run: () => setThemeMode(mode === 'dark' ? 'light' : 'dark') },
  ]);

  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '56px minmax(0, 1fr)', height: '100vh', bgcolor: c.page }}>
      <Box
        component="nav"
        aria-label="Views"
        sx={{ borderRight: `1px solid ${c.line}`, bgcolor: c.panel, display: 'flex', flexDirection: 'column', alignItems: 'center' }}
      >
        <Box sx={{ height: 52, display: 'grid', placeItems: 'center' }}>
          <Mark />
        </Box>
        {RAIL.map(({ view, title, icon }) => {
          const selected = route.view === view;
          const bench = route.view === 'bench' ? route : lastBench;
          if (view === 'bench' && bench === null) return null;
          const to: Partial<Route> = view === 'bench' ? (bench ?? {}) : { ...NOTHING, view };
          return (
            <ButtonBase
              key={view}
              component="a"
              href={linkTo(to)}
              aria-current={selected ? 'page' : undefined}
              onClick={(e: React.MouseEvent) => {
                e.preventDefault();
                if (!selected) navigate(to);
              }}
              sx={{
                width: 48,
                py: 0.75,
                mb: 0.5,
                flexDirection: 'column',
                gap: 0.25,
                fontSize: 11.5,
                borderRadius: 1,
                color: selected ? c.text : c.dim,
                bgcolor: selected ? c.raised : 'transparent',
                borderLeft: `3px solid ${selected ? c.selected : 'transparent'}`,
                '&:hover': { color: c.text },
              }}
            >
              <Icon name={icon} />
              {title}
            </ButtonBase>
          );
        })}
        <Box sx={{ flex: 1 }} />
        <Tooltip title="All keys (?)" placement="right">
          <ButtonBase aria-label="All keys" onClick={() => setPalette('keys')} sx={{ p: 1, color: c.dim, '&:hover': { color: c.text } }}>
            <Icon name="keys" />
          </ButtonBase>
        </Tooltip>
        <Tooltip title={mode === 'dark' ? 'Light theme' : 'Dark theme'} placement="right">
          <ButtonBase
            aria-label={mode === 'dark' ? 'Light theme' : 'Dark theme'}
            onClick={() => setThemeMode(mode === 'dark' ? 'light' : 'dark')}
            sx={{ p: 1, mb: 1, color: c.dim, '&:hover': { color: c.text } }}
          >
            <Icon name={mode === 'dark' ? 'sun' : 'moon'} />
          </ButtonBase>
        </Tooltip>
      </Box>
      <Box component="main" sx={{ minWidth: 0, minHeight: 0, position: 'relative' }}>
        {route.view === 'bench' && route.shot !== null ? (
          <Suspense fallback={<Loading what="Opening the Bench" />}>
            <BenchView key={route.shot} slug={route.shot} />
          </Suspense>
        ) : (
          <ShotsView />
        )}
        {!live && <Offline />}
      </Box>
      <Notices />
      {Palette && palette !== null && <Palette mode={palette} onClose={() => setPalette('closed')} />}
    </Box>
  );
}

/** The palette, which the first load does without; it comes right after, so that what is typed after its key is typed into it. */
function usePalette(): typeof PaletteView | null {
  const [loaded, setLoaded] = useState<{ readonly Palette: typeof PaletteView } | null>(null);
  useEffect(() => {
    void import('./palette').then(setLoaded);
  }, []);
  return loaded?.Palette ?? null;
}

const TOLD = 'ruddle.told';

/** What the server found left over from a crash is said once, in the first page that opens. */
function useFoundNotice(): void {
  const status = useStatus().data;
  useEffect(() => {
    if (!status || status.found.length === 0 || localStorage.getItem(TOLD) === String(status.startedAt)) return;
    localStorage.setItem(TOLD, String(status.startedAt));
    say('warning', status.found.join('\n'));
  }, [status]);
}

/** Said only when the connection stays away: it drops for a moment at every start. */
function Offline(): ReactElement | null {
  const c = useColours();
  const [shown, setShown] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => {
      setShown(true);
    }, 3000);
    return () => {
      clearTimeout(timer);
    };
  }, []);
  if (!shown) return null;
  return (
    <Box
      role="status"
      sx={{
        position: 'absolute',
        top: 60,
        left: '50%',
        transform: 'translateX(-50%)',
        px: 2,
        py: 0.5,
        borderRadius: 1,
        bgcolor: c.raised,
        border: `1px solid ${c.warning}`,
        color: c.warning,
        zIndex: 20,
      }}
    >
      The server does not answer; trying again. Runs go on without this page.
    </Box>
  );
}
