export { enqueue } from './enqueue';
export { claim } from './claim';
export { finish } from './finish';
export { recover } from './recover';
