import type { Unit } from '#core/units';
import type { RampName } from './ramps';

/** Channels that can be looked at. `vel` is shown as speed. */
export const CHANNEL_LOOK = {
  density: { title: 'Density', unit: 'none', ramp: 'chalk', /** Optical depth a metre at full value. */ depth: 7, lit: true },
  temperature: { title: 'Temperature', unit: 'celsius', ramp: 'ember', depth: 5, lit: false },
  vel: { title: 'Speed', unit: 'speed', ramp: 'patina', depth: 0.7, lit: false },
} as const satisfies Record<string, { title: string; unit: Unit; ramp: RampName; depth: number; lit: boolean }>;

export type LookChannel = keyof typeof CHANNEL_LOOK;
