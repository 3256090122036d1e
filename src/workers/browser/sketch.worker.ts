import type { SketchRequest } from '#protocol';
import { fetchGeometry } from './fetch-geometry';
import { sketchMain } from './sketch-main';

const receive = sketchMain(
  (message, transfer) => {
    self.postMessage(message, { transfer });
  },
  (start) => {
    new Worker(new URL('./kernel-helper.worker.ts', import.meta.url), { type: 'module' }).postMessage(start);
  },
  fetchGeometry,
);

self.onmessage = (message: MessageEvent<SketchRequest>) => {
  receive(message.data);
};
