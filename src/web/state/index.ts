export { api, ApiError } from './api';
export { useShots, useShot, useRun, queryClient } from './queries';
export { connectEvents, useProgress, useConnection } from './events';
export { useSheet, useEdits, type SheetState } from './sheet';
export { type Route, useRoute, navigate, linkTo } from './route';
export { useThemeMode, setThemeMode, type ThemeMode } from './theme-mode';
export { say, useNotice, type Notice } from './notice';
export { useStateOf } from './cache-state';
