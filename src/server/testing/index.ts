export { type OpenFolder, inFolder } from './open-folder';
export { type MadeUpRun, finishedRun } from './finished-run';
export { ballShot } from './ball-shot';
