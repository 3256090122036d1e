export { withTeam, makeGrid, pressureArrays, allClosed, allOpen, type TestGrid } from './grids';
export { gasOptions, runGas, still, voxelsOf, sumOf } from './gas';
export * as oracle from './oracles';
export type { Scene } from './oracles';
export { makeReport, makeReports } from './reports';
