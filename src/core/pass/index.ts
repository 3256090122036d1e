export {
  type CacheFacts,
  type FileConvention,
  type FrameFacts,
  type FrameList,
  type PassDefinition,
  type PassPlan,
  type Rates,
  type ResolveContext,
  type ResolvedPass,
  listFrames,
} from './contract';
export { passKey } from './key';
