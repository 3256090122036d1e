import { lazy } from 'react';

export type { ChartProps } from './types';

// Half a megabyte: comes when a chart is shown first.
export const Chart = lazy(() => import('./chart'));
