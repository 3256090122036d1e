export { startRun, type RunInput, type RunningRun, type RunOutcome } from './run';
export { codeVersion } from './provenance';
export type { StoredFrame } from './run-folder';
