export { type Deep, merged } from './merge';
export { makeReport, makeReports } from './reports';
export { makeFrame, makePrediction, makeRun, makeShot } from './shots';
