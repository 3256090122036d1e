export { useFreeing } from './use-freeing';
