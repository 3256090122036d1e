import { shadowVolume, type ShadowInput } from '#core/look';

/** Shell: densities in, light that arrives out. */
self.onmessage = (message: MessageEvent<{ id: number; input: ShadowInput }>) => {
  const light = shadowVolume(message.data.input);
  self.postMessage({ id: message.data.id, light }, { transfer: [light.data.buffer] });
};
