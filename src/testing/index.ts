export { withTeam, makeGrid, allClosed, allOpen, type TestGrid } from './grids';
export { gasOptions, runGas } from './gas';
