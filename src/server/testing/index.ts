export { type OpenFolder, configFor, inFolder } from './open-folder';
export { type MadeUpRun, type Recorded, finishedRun, recorded } from './finished-run';
export { ballShot } from './ball-shot';
