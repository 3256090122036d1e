import { create } from 'zustand';

export type ThemeMode = 'dark' | 'light';
const KEY = 'ruddle.theme';

const stored = (): ThemeMode => (window.localStorage.getItem(KEY) === 'light' ? 'light' : 'dark');

const store = create<{ readonly mode: ThemeMode }>(() => ({ mode: stored() }));

export const useThemeMode = (): ThemeMode => store((s) => s.mode);

export function setThemeMode(mode: ThemeMode): void {
  window.localStorage.setItem(KEY, mode);
  store.setState({ mode });
}
