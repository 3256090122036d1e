export {
  type AnyPlan,
  type AnyReport,
  FOLLOWERS,
  type FollowerReport,
  type PassReports,
  type SolveReport,
  definitionOf,
  isGasPlan,
  isLiquidReport,
  isSolvePlan,
  kindOf,
  opsOf,
} from './registry';
export type { FollowerPlan } from './follower';
export { type GasReport, gasVersion, mergedReport } from './gas';
export type { LiquidReport } from './liquid';
export { neverFits } from './never-fits';
export { type CachedRung, Chain, type FolderFacts, type Outside, type PinnedRun, type ResolvedEntry, type ResolvedInput } from './chain';
export { readAnyStoredPlan } from './stored';
export { remedyOf, tooLarge } from './fits';
export { type PassPrediction, predictPass } from './predict';
export { type MeasuredFrame, type PassFactors, type PassMeasure, factorsOf, measureOf } from './measure';
export { broughtUp, formerKey } from './former-keys';
export { framesRead } from './reads';
export { type PassSketchPlan, SKETCH_FRAMES, passSketch } from './sketch';
export { type ResampleBody, type ResampleReport, activeOf, resample } from './resample';
export { Detail, type DetailBody, type DetailReport, collectDetail, smallestOf } from './detail';
export { Fed, type FedBody, type FedReport, fedFacts } from './fed';
export { Held, type HeldBody, type HeldReport, heldFacts } from './held';
export { type RetimeBody, type RetimeReport, momentOf, retimed } from './retime';
export type { Flight, FlownReport, VelocityPart } from './flight';
export { type ParticlesBody, type ParticlesReport, particlesFlight } from './particles';
export { type RefillBody, type RefillReport, aliveOf, refillFlight } from './refill';
export { type SurfaceBody, type SurfaceReport, columnsWanted, particlesBeside, particlesOf, surfaceNote } from './surface';
export { type StillsBody, type StillsReport, type VolumePart, drawPoints, march, toBytes, workOfPoints } from './stills';
