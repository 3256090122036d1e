import { create } from 'zustand';
import { useThemeMode } from './theme-mode';

/** What the viewport is drawn on: a choice of its own, as light smoke wants another than soot. */
export const GROUNDS = { dark: 'Dark ground', grey: 'Grey ground', light: 'Light ground' } as const;
export type Ground = keyof typeof GROUNDS;
const KEY = 'ruddle.ground';

const isGround = (v: string | null): v is Ground => v !== null && v in GROUNDS;

const read = (): Ground | null => {
  const stored = window.localStorage.getItem(KEY);
  return isGround(stored) ? stored : null;
};

const store = create<{ readonly chosen: Ground | null }>(() => ({ chosen: read() }));

/** As chosen; without a choice dark in the dark theme, and in the light one the grey on which light and dark matter are both seen. */
export function useGround(): Ground {
  const theme = useThemeMode();
  return store((s) => s.chosen) ?? (theme === 'dark' ? 'dark' : 'grey');
}

export function setGround(ground: Ground): void {
  window.localStorage.setItem(KEY, ground);
  store.setState({ chosen: ground });
}
