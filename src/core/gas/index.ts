export type {
  GasOptions,
  GasSolid,
  GasSource,
  EmissionMode,
  EmissionNoise,
  Fire,
  Turbulence,
  ForceField,
  AdvectionName,
  ScalarAdvectionName,
} from './options';
export { solveGas, warmCalibration, GAS_VERSION, type GasFrame, type GasState, type GasEnvironment } from './solver';
export { solveTogether, reportOfAll, type FrameOfAll } from './together';
export { type FrameReport, type Ledger, type Stage, STAGES } from './report';
export { ADVECTION } from './advection';
export { Carrying } from './carrying';
export { doNotFit, windowBytes } from './fields';
export { leastBytes } from './feasible';
export { GRAVITY } from './options';
export { pushOf } from './push';
export { type Census, chooseActive, fitWindow, limitWindow, windowAround } from './activity';
export { type GasChannel, channelsOf } from './channels';
export { type ForceArrows, forceArrows } from './force-arrows';
export { type ContactSlice, type Gap, contactSlice, gapOf } from './contact';
