import { RuddleError } from '#core/errors';
import { type FrameFacts, type PassDefinition, listFrames } from '#core/pass';
import type { RetimeSettings } from '#core/shot';
import { formatCount } from '#core/units';
import { framesSaid } from '../upscale';

export { retimed } from './retime';

export interface RetimeBody {
  readonly speed: number;
  /** First frame, and every which one there is of what it reads. */
  readonly first: number;
  readonly every: number;
  readonly frameSeconds: number;
  readonly channels: readonly string[];
  readonly precision: 'half' | 'full';
  readonly compression: 'blosc' | 'zip' | 'none';
}

export interface RetimeReport extends FrameFacts {
  readonly activeVoxels: number;
  /** The moment in frames of what it reads. */
  readonly moment: number;
  /** Relative L2 of the density of the two frames beside, when both are moved to the moment. */
  readonly apart: number;
}

/** The frames before and after a frame's moment, and how much of the way from one to the other it is. */
export function momentOf(
  { speed, first, every }: RetimeBody,
  frame: number,
): { before: number; after: number; share: number; moment: number } {
  const moment = first + (frame - first) * speed;
  const steps = (moment - first) / every;
  // What is a frame but for rounding is that frame.
  const near = Math.round(steps);
  if (Math.abs(steps - near) < 1e-6) return { before: first + near * every, after: first + near * every, share: 0, moment };
  const before = first + Math.floor(steps) * every;
  return { before, after: before + every, share: steps - Math.floor(steps), moment };
}

const CHANNELS = ['density', 'temperature', 'flame', 'fuel', 'colour', 'uvw', 'vel'] as const;
/** Two frames that say so unlike things of a moment are too far apart to be gone between. */
const UNLIKE = 0.35;
const MOST_FRAMES = 100_000;
/** Reading a frame, in what making one takes. */
const READING = 0.77;

export const retimeDefinition: PassDefinition<RetimeSettings, RetimeBody, RetimeReport> = {
  title: 'Retime',
  about: 'A cached gas slower or faster: frames between its frames, each made of its two neighbours moved along their velocities.',
  version: 1,
  essence: (body) => body,
  order: 'any',
  output: 'vdb',
  accepts: ['vdb'],
  needs: { vdb: ['vel', 'density'] },
  resolve: ({ shot, input }, own) => {
    const { first, last, every } = input.frames;
    const { speed, precision, compression } = own;
    const count = Math.floor((last - first) / speed + 1e-6);
    if (count > MOST_FRAMES) {
      const message = `${formatCount(count)} frames would be made: raise the speed`;
      throw new RuddleError('settings-invalid', `This cannot be computed: ${message}.`, { issues: [{ path: 'speed', message }] });
    }
    const channels = CHANNELS.filter((c) => own[c] && input.channels.includes(c));
    return {
      body: { speed, first, every, frameSeconds: (shot.timeScale / shot.framesPerSecond) * every, channels, precision, compression },
      frames: { first, last: first + count, every: 1 },
      gives: { output: 'vdb', voxelSizes: input.voxelSizes, channels, file: input.file },
    };
  },
  geometry: () => [],
  sketch: { lead: 0, from: (body) => body },
  reads: (_body, given) => listFrames(given),
  source: (body, frame) => momentOf(body, frame).before,
  cost: {
    // Neighbours that the frame before had are at hand: the faster, the more is read anew.
    elements: ({ speed }, input) => input * (1 + READING * Math.min(2, speed)),
    kept: (_body, input) => input,
    rates: { secondsPerElement: 2.9e-6, bytesPerKept: 8 },
    memoryBytes: (_body, input) => 120 * input,
  },
  line: (r) =>
    `frame ${r.moment.toFixed(2)} of what it reads, ${formatCount(r.activeVoxels)} voxels, its neighbours ${(100 * r.apart).toFixed(1)} % apart`,
  figures: [{ id: 'apart', title: 'Neighbours apart', unit: 'percent', of: (r) => 100 * r.apart }],
  checks: (_own, reports) => {
    const unlike = reports.filter((r) => r.apart > UNLIKE);
    if (unlike.length === 0) return [];
    const most = unlike.reduce((a, b) => (b.apart > a.apart ? b : a));
    return [
      {
        id: 'unlike',
        title: `Neighbours differ by up to ${String(Math.round(100 * most.apart))} %`,
        text: `In ${framesSaid(unlike.map((r) => r.frame))} the two frames beside, moved to the same moment, do not agree: what is between them is a guess. Read every frame, or solve the shot at this speed (time scale).`,
      },
    ];
  },
  nothing: ({ activeVoxels }) => (activeVoxels > 0 ? null : 'What it reads has no density at this moment.'),
};
