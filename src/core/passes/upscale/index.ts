// What passes that make a cached gas finer share: the cached frame as points, and how they lie to a fine grid.
export { type BasePart, type Lattice, Room, fillChannel, latticeAround, pointsOf, relaid } from './lattice';
export { fineStrength, smoothed } from './smooth';
export { type Moved, movedFrom } from './moved';
export { type Spectra, spectraOf } from './spectrum';
export { LatticeFrame } from './frame';
export { AMOUNT_NAMES, type Amount, type CarriedAmount, amountsOf, loadAmounts } from './amounts';
export { matterBoxes, nearMatter } from './matter';
export { MOVED_FIGURES, framesSaid, movedTooFar } from './moved-findings';
