import type { Unit } from '#core/units';
import type { RampName } from './ramps';

/** Channels that can be looked at. `vel` is shown as speed. */
export const CHANNEL_LOOK = {
  density: { title: 'Density', unit: 'none', ramp: 'chalk', /** Optical depth a metre at full value. */ depth: 7, lit: true },
  temperature: { title: 'Temperature', unit: 'celsius', ramp: 'ember', depth: 5, lit: false },
  flame: { title: 'Flame', unit: 'perSecond', ramp: 'ember', depth: 9, lit: false },
  fuel: { title: 'Fuel', unit: 'none', ramp: 'patina', depth: 4, lit: false },
  /** Vectors that matter carries: density, lit, in colours that are the vector itself. */
  colour: { title: 'Colour', unit: 'none', ramp: 'chalk', depth: 7, lit: true },
  uvw: { title: 'Texture coordinates', unit: 'none', ramp: 'chalk', depth: 7, lit: true },
  vel: { title: 'Speed', unit: 'speed', ramp: 'patina', depth: 0.7, lit: false },
  /** Of two runs; made in the page, never stored. */
  difference: { title: 'Difference', unit: 'none', ramp: 'twin', depth: 1, lit: false },
} as const satisfies Record<string, { title: string; unit: Unit; ramp: RampName; depth: number; lit: boolean }>;

export type LookChannel = keyof typeof CHANNEL_LOOK;

/** Those that a run can keep. */
export const KEPT_CHANNELS = ['density', 'temperature', 'flame', 'fuel', 'colour', 'uvw', 'vel'] as const satisfies readonly LookChannel[];

/** Those that colour the density instead of being one number a voxel. */
export const isTint = (channel: string): channel is 'colour' | 'uvw' => channel === 'colour' || channel === 'uvw';
