export {
  type CacheFacts,
  type FileConvention,
  type FrameFacts,
  type FrameList,
  type KernelDigests,
  type PassDefinition,
  type PassKindOps,
  type PassPlan,
  type Rates,
  type ResolveContext,
  type ResolvedPass,
  type RunRange,
  listFrames,
} from './contract';
export { passKey } from './key';
