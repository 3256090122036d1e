export {
  type CacheFacts,
  type FileConvention,
  type FrameFacts,
  type FrameList,
  type KernelDigests,
  type PassDefinition,
  type PassFigure,
  type PassFinding,
  type PassKindOps,
  type PassSpectra,
  type PassPlan,
  type Rates,
  type ResolveContext,
  type ResolvedPass,
  type RunRange,
  listFrames,
} from './contract';
export { passKey } from './key';
