export { type Deep, merged } from './merge';
export { makeReport, makeReports } from './reports';
export { makeFrame, makePrediction, makeRow, makeRun, makeShot } from './shots';
export { madeKernels, makePassRun } from './passes';
