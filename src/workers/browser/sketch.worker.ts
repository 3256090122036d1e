import type { SketchRequest } from '#protocol';
import { sketchMain } from './sketch-main';

const receive = sketchMain(
  (message, transfer) => {
    self.postMessage(message, { transfer });
  },
  (start) => {
    new Worker(new URL('./kernel-helper.worker.ts', import.meta.url), { type: 'module' }).postMessage(start);
  },
);

self.onmessage = (message: MessageEvent<SketchRequest>) => {
  receive(message.data);
};
