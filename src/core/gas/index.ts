export type { GasOptions, GasSolid, GasSource, EmissionMode, EmissionNoise, Fire, Turbulence, AdvectionName } from './options';
export { solveGas, warmCalibration, GAS_VERSION, type GasFrame, type GasState, type GasEnvironment } from './solver';
export { type FrameReport, type MassLedger, type Stage, STAGES } from './report';
export { ADVECTION } from './advection';
export { doNotFit, windowBytes } from './fields';
export { GRAVITY } from './options';
export { fitWindow, limitWindow } from './activity';
export { type GasChannel, channelsOf } from './channels';
