export { startRun, type RunInput, type RunningRun, type RunOutcome, type StoredFrame } from './run';
export { codeVersion } from './provenance';
