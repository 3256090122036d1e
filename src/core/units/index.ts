export { parseQuantity, formatQuantity, formatBytes, formatCount, formatSeconds, type Unit, UNITS } from './quantity';
