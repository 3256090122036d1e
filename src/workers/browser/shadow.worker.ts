import { shadowVolume, type ShadowInput } from '#core/look';

/** Shell: densities in, light that arrives out. */
self.onmessage = (message: MessageEvent<ShadowInput>) => {
  const light = shadowVolume(message.data);
  self.postMessage(light, { transfer: [light.data.buffer] });
};
