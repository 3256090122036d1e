export { liquidFile, liquidPreview } from './liquid-frame';
export { warmUp } from './warm-up';
