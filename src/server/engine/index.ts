export { leftInFolder } from './left-in-folder';
export { startRun, type RunInput, type Resume } from './run';
export { startPassRun, type PassResume, type PassRunInput } from './pass-run';
export type { RunningRun, RunOutcome } from './run-into';
export { codeVersion } from './provenance';
export type { StoredFrame, StoredState } from './run-folder';
