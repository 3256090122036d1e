export { Thumbnail } from './thumbnail';
