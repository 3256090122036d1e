export { shadowVolume, type ShadowInput, type LightVolume } from './shadow';
export { rampBytes, RAMPS, type RampName } from './ramps';
export { CHANNEL_LOOK, KEPT_CHANNELS, type LookChannel } from './channels';
