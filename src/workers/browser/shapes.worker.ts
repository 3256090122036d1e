import type { ShapeRequest } from '#protocol';
import { fetchGeometry } from './fetch-geometry';
import { shapesMain } from './shapes-main';

const receive = shapesMain((reply) => {
  self.postMessage(reply);
}, fetchGeometry);

self.onmessage = (message: MessageEvent<ShapeRequest>) => {
  receive(message.data);
};
