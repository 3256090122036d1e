export { show } from './show';
export { type Asked, serve } from './serve';
