export { type CostFrame, type CostRun, costFrame, costRunsOf, costFrameSchema } from './evidence';
export { type CostModel } from './model';
export { calibrationPlans } from './calibration';
export { type Basis, type Prediction, type Range } from './prediction';
export { type DetailedPrediction, type Knowledge, knowledgeOf, predict, summaryOf } from './predict';
export { type Quantity, type RecordEntry, QUANTITIES, measuredOf, pairsOf, statisticsOf } from './record';
export { expectedVoxels } from './guess';
