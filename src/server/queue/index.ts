export { enqueue } from './enqueue';
export { claim, sayWhy, waitsForMemory } from './claim';
export { cancelWaiting } from './cancel';
export { type Ending, finish } from './finish';
export { goOn, putBack } from './go-on';
export { type Recovered, recover } from './recover';
export { pause, paused, unpause } from './pause';
