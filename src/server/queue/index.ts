export { enqueue } from './enqueue';
export { claim } from './claim';
export { cancelWaiting } from './cancel';
export { type Ending, finish } from './finish';
export { recover } from './recover';
