export { shadowVolume, type ShadowInput, type LightVolume } from './shadow';
export { rampBytes, RAMPS, type RampName } from './ramps';
export { CHANNEL_LOOK, type LookChannel } from './channels';
