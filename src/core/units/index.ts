export { GRAVITY } from './constants';
export {
  parseQuantity,
  formatQuantity,
  formatLitres,
  formatBytes,
  formatCount,
  formatRange,
  formatSeconds,
  type Unit,
  UNITS,
} from './quantity';
