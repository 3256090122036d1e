export { BenchView } from './bench-view';
