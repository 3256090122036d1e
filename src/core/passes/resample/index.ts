import type { FrameFacts, PassDefinition } from '#core/pass';
import type { ResampleSettings } from '#core/shot';
import { formatCount } from '#core/units';
import type { ResampleMass, ResampleOptions } from './resample';

export { activeOf, resample, type Resampled } from './resample';

export interface ResampleBody extends ResampleOptions {
  readonly precision: 'half' | 'full';
  readonly compression: 'blosc' | 'zip' | 'none';
}

export interface ResampleReport extends FrameFacts {
  readonly activeVoxels: number;
  readonly inputVoxels: number;
  readonly mass: ResampleMass;
}

const CHANNELS = ['density', 'temperature', 'flame', 'fuel', 'colour', 'uvw', 'vel'] as const;

export const resampleDefinition: PassDefinition<ResampleSettings, ResampleBody, ResampleReport> = {
  title: 'Resample',
  about: 'A cache at another voxel size: coarser or finer, cropped, fewer frames, fewer channels.',
  version: 1,
  essence: (body) => body,
  order: 'any',
  output: 'vdb',
  accepts: ['vdb'],
  needs: {},
  resolve: ({ input }, own) => {
    const channels = CHANNELS.filter((c) => own[c]);
    const { voxelFactor: factor, crop, cutOff, everyNth, precision, compression } = own;
    return {
      body: { factor, crop, cutOff, channels, precision, compression },
      frames: { ...input.frames, every: input.frames.every * everyNth },
      gives: {
        output: 'vdb',
        voxelSizes: input.voxelSizes.map((h) => h * factor),
        channels: channels.filter((c) => input.channels.includes(c)),
        file: input.file,
      },
    };
  },
  sketch: { lead: 0, from: (body) => body },
  geometry: () => [],
  cost: {
    elements: (_body, input) => input,
    kept: ({ factor }, input) => input / factor ** 3,
    rates: { secondsPerElement: 1e-6, bytesPerKept: 13 },
    memoryBytes: ({ factor }, input) => 60 * input * (1 + 1 / factor ** 3),
  },
  line: (r) => `${formatCount(r.activeVoxels)} voxels of ${formatCount(r.inputVoxels)}`,
  figures: [{ id: 'voxels', title: 'Active voxels', unit: 'none', of: (r) => r.activeVoxels }],
  checks: () => [],
  nothing: ({ activeVoxels, inputVoxels, mass }) => {
    if (activeVoxels > 0) return null;
    if (inputVoxels === 0) return 'What it reads is empty at this frame.';
    if (mass.cropped > 0 && mass.cut === 0) return 'All of it lies outside the crop box: make the box larger, or take it away.';
    if (mass.cut > 0) return 'All of it lies below the cut-off: lower it.';
    return 'None of the channels that are kept has anything at this frame.';
  },
};
