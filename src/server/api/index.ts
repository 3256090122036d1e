export { handleApi } from './handle';
