export { ShotsView } from './shots-view';
