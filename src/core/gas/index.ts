export type { GasOptions, GasSource, EmissionMode, EmissionNoise, Fire, ScalarAdvectionName } from './options';
export { solveGas, GAS_VERSION, type GasFrame, type GasState, type GasEnvironment, type Feed, type Guide } from './solver';
export { solveTogether, reportOfAll, type FrameOfAll } from './together';
export { type FrameReport, type Ledger, type Stage, STAGES } from './report';
export { windowBytes } from './fields';
export { leastBytes } from './feasible';
export { pushOf } from './push';
export { type GasChannel, channelsOf } from './channels';
