export { PASSES, type AnyReport, type PassReports, definitionOf } from './registry';
export {
  type AnyPlan,
  type CachedRung,
  Chain,
  type FolderFacts,
  type KernelDigests,
  type Outside,
  type PinnedRun,
  type ResolvedEntry,
  type ResolvedInput,
  factsOfSolve,
  versionOf,
} from './chain';
export { readStoredPassPlan } from './stored';
export { type PassPrediction, predictPass } from './predict';
export { type ResampleBody, type ResampleReport, activeOf, resample } from './resample';
export { Flight, type ParticlesBody, type ParticlesReport, type VelocityPart } from './particles';
export { type StillsBody, type StillsReport, type VolumePart, march, toBytes } from './stills';
