export { type CostFrame, type CostRun, costFrame, costRunsOf, costFrameSchema } from './evidence';
export { type CostModel } from './model';
export { calibrationPlans } from './calibration';
export { type Ahead, allAhead, aheadOf } from './ahead';
export {
  type Basis,
  type DetailedPrediction,
  type ForeseenFrame,
  type Prediction,
  type Range,
  foreseenFrames,
  notMeasured,
} from './prediction';
export { type Knowledge, knowledgeOf, predict, summaryOf } from './predict';
export {
  type AnyCostRun,
  type LiquidCostFrame,
  type LiquidCostRun,
  isLiquidRun,
  liquidCostFrame,
  liquidCostFrameSchema,
  expectedParticles,
} from './liquid';
export { type Quantity, type RecordEntry, QUANTITIES, measuredOf, pairsOf, statisticsOf } from './record';
export { expectedVoxels } from './guess';
