import { type HelperStart, helpLoop } from '#kernels';

self.onmessage = (message: MessageEvent<HelperStart>) => {
  helpLoop(message.data);
};
