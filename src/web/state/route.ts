import { useSyncExternalStore } from 'react';

/**
 * Where the user is. It is state of its own, and every part of it is in the address, so that a link reopens it: at once after a step, and when it rests after what is
 * played or scrubbed (browsers drop more than 200 changes of the address in ten seconds).
 */
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

const tell = (): void => {
  for (const listener of listeners) listener();
};

export const currentRoute = (): Route => (current ??= parse(window.location));

/** So long nothing is shown anew before the address follows, milliseconds. */
const REST = 300;
let resting: ReturnType<typeof setTimeout> | null = null;
/** Whether the address is behind. */
let behind = false;

function follow(): void {
  if (!behind) return;
  behind = false;
  window.history.replaceState(null, '', linkTo(currentRoute()));
}

/** Writes the first change after a rest at once; quick changes after it are written when they rest. */
function followAtRest(): void {
  behind = true;
  if (resting === null) follow();
  else clearTimeout(resting);
  resting = setTimeout(() => {
    resting = null;
    follow();
  }, REST);
}

/** The browser went to another entry, or somebody wrote the address: that is where the user is now. */
function takeAddress(): void {
  behind = false;
  current = parse(window.location);
  tell();
}

// Core of it runs without a page too, in tests.
if (typeof window !== 'undefined') {
  window.addEventListener('popstate', takeAddress);
  window.addEventListener('pagehide', follow);
}

/** Goes somewhere; `replace` for what should not be a step of the back button (scrubbing). */
export function navigate(change: Partial<Route>, options: { replace?: boolean } = {}): void {
  const before = currentRoute();
  const wanted = { ...before, ...change };
  const link = linkTo(wanted);
  if (link === linkTo(before)) return;
  // As the address says it: a part that it has no room for is not kept either.
  const [pathname = '', search = ''] = link.split('?');
  if (options.replace !== true) {
    // The entry that the user leaves holds the frame that was shown last.
    follow();
    window.history.pushState(null, '', link);
  }
  current = parse({ pathname, search });
  if (options.replace === true) followAtRest();
  tell();
}

export function useRoute(): Route {
  return useSyncExternalStore((listener) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  }, currentRoute);
}
