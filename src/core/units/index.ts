export { GRAVITY } from './constants';
export { parseQuantity, formatQuantity, formatBytes, formatCount, formatRange, formatSeconds, type Unit, UNITS } from './quantity';
