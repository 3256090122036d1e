export { FUNCTIONS, VARIABLES, parseExpression, type Parsed } from './parse';
export { type Key, type Onward, smoothSlope, valueOfKeys } from './keys';
export {
  type Follow,
  type Followed,
  type Moment,
  type ShotSeconds,
  type Move,
  type Moves,
  atMoment,
  numberAt,
  readBy,
  valueOfMove,
  whyNoValue,
} from './moves';
export { scaledMoves } from './scale';
