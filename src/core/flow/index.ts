// What flows of every kind share: bounds, activity, solids that stand and move, forces, the transport of velocity and scalars.
export {
  type AdvectionName,
  type FlowMatter,
  type FlowOptions,
  type FlowSource,
  type ForceField,
  type Solid,
  type Turbulence,
} from './options';
export { type Contents, type FlowFields, SCRATCH, bytesOfWindow, capacityFor, checkFits, doNotFit } from './fields';
export { type Census, chooseActive, fitWindow, limitWindow, windowAround, windowInto } from './activity';
export { type SolverSeconds, actingOf, actsDuring, shotTime, timeOfFrame } from './clock';
export { type FrameSpan, type SubstepsTaken, type Substepping, frameSpans, isStill, namingFrame, takeSubsteps } from './driver';
export { Bounds, type PlainBounds } from './bounds';
export type { Swept } from './sweep';
export { type Cover, type Covers, type Extents, coversIn, extentsOf } from './covers';
export { Motion, type PlacedSource } from './moving';
export { movingWalls, nearestMoving } from './moving-walls';
export { CutFaces } from './cut-faces';
export { ADVECTION, type AdvectionContext, type AdvectionScheme, EdgeVelocities, carryReflected } from './advection';
export { Carrying } from './carrying';
export { Collector } from './collect';
export { sharpenCells, smoothFaces, spreadCells } from './smoothing';
export { ForceFields } from './force-fields';
export { type TurbulenceLattice, makeTurbulence, noiseArguments, noisesOf, turbulenceAt } from './turbulence';
export { takeUpWind } from './wind';
export { type ForceArrows, forceArrows } from './force-arrows';
export { type ContactSlice, type Gap, contactDistance, contactSlice, gapOf } from './contact';
export { Calibration, warmCalibration } from './calibration';
