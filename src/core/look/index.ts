export { shadowVolume, type ShadowInput, type LightVolume } from './shadow';
export { hexOf, colourOfHex } from './colour';
export { rampBytes, RAMPS, type RampName } from './ramps';
export { CHANNEL_LOOK, KEPT_CHANNELS, isTint, type LookChannel } from './channels';
