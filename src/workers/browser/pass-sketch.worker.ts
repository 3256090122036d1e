import type { PassSketchRequest } from '#protocol';
import { fetchFile } from './fetch-file';
import { fetchGeometry } from './fetch-geometry';
import { passSketchMain } from './pass-sketch-main';

const receive = passSketchMain(
  (message, transfer) => {
    self.postMessage(message, { transfer });
  },
  (start) => {
    new Worker(new URL('./kernel-helper.worker.ts', import.meta.url), { type: 'module' }).postMessage(start);
  },
  fetchGeometry,
  fetchFile,
);

self.onmessage = (message: MessageEvent<PassSketchRequest>) => {
  receive(message.data);
};
