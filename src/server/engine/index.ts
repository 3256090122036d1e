export { startRun, type RunInput, type RunningRun, type RunOutcome, type Resume } from './run';
export { codeVersion } from './provenance';
export type { StoredFrame, StoredState } from './run-folder';
