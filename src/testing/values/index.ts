export { type Deep, merged } from './merge';
export { makeLiquidReport } from './liquid-report';
export { makeReport, makeReports } from './reports';
export { makeFrame, makePrediction, makeRow, makeRun, makeShot } from './shots';
export { settingsOf, withGroups } from './settings';
export { makePassRun } from './passes';
export { makePassPrediction } from './pass-prediction';
export { makeSurfaceReport } from './surface-report';
export { processorSeconds } from './processor-time';
