export { type Births, Flight, type FlightBody, type Counts } from './flight';
export { Cloud } from './cloud';
export type { VelocityPart } from './velocity';
export { type FlownReport, aliveBytes, flownNothing, velocityBytes } from './report';
