export { warmUp } from './warm-up';
