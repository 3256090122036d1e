export { gridOf } from './tile-grids';
export { withTeam, makeGrid, pressureArrays, allClosed, allOpen, type TestGrid } from './grids';
export { gasOptions, runGas, still, solid, voxelsOf, sumOf } from './gas';
export * as oracle from './oracles';
export type { Scene } from './oracles';
export { type Soup, soup, boxSoup, ballSoup, sheetSoup, meshShape } from './meshes';
export { TRANSPORT_CASES, carryCase, type TransportCase, type TransportResult } from './transport';
export { refusalOf } from './refusal';
export { velocityField } from './velocity-field';
