import { useSyncExternalStore } from 'react';

/** Where the user is; every part is in the address, so that a link reopens it. */
export interface Route {
  readonly view: 'shots' | 'bench';
  readonly shot: string | null;
  readonly variant: string | null;
  readonly run: string | null;
  readonly frame: number | null;
  readonly group: string | null;
  readonly channel: string | null;
  /** Pass of the sheet that is looked at; null: the solve. */
  readonly pass: string | null;
  /** Run that the shown one is compared with. */
  readonly with: string | null;
}

function parse(location: { pathname: string; search: string }): Route {
  const [view, shot] = location.pathname.split('/').filter(Boolean);
  const query = new URLSearchParams(location.search);
  const frame = query.get('frame');
  return {
    view: view === 'bench' && shot ? 'bench' : 'shots',
    shot: shot ?? null,
    variant: query.get('variant'),
    run: query.get('run'),
    frame: frame !== null && /^-?\d+$/.test(frame) ? Number(frame) : null,
    group: query.get('group'),
    channel: query.get('channel'),
    pass: query.get('pass'),
    with: query.get('with'),
  };
}

export function linkTo(route: Partial<Route>): string {
  const path = route.view === 'bench' && route.shot ? `/bench/${route.shot}` : '/shots';
  const query = new URLSearchParams();
  for (const key of ['variant', 'run', 'frame', 'group', 'channel', 'pass', 'with'] as const) {
    const value = route[key];
    if (value !== null && value !== undefined) query.set(key, String(value));
  }
  const text = query.toString();
  return text ? `${path}?${text}` : path;
}

const listeners = new Set<() => void>();
let current: Route | null = null;

const refresh = (): void => {
  current = parse(window.location);
  for (const listener of listeners) listener();
};

export const currentRoute = (): Route => (current ??= parse(window.location));

/** Goes somewhere; `replace` for what should not be a step of the back button (scrubbing). */
export function navigate(change: Partial<Route>, options: { replace?: boolean } = {}): void {
  const link = linkTo({ ...currentRoute(), ...change });
  if (link === window.location.pathname + window.location.search) return;
  window.history[options.replace ? 'replaceState' : 'pushState'](null, '', link);
  refresh();
}

export function useRoute(): Route {
  return useSyncExternalStore((listener) => {
    listeners.add(listener);
    window.addEventListener('popstate', refresh);
    return () => listeners.delete(listener);
  }, currentRoute);
}
