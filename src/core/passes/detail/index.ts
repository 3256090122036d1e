import { RuddleError } from '#core/errors';
import type { Box3 } from '#core/geometry';
import type { FrameFacts, PassDefinition } from '#core/pass';
import { type DetailSettings, optionsOf, resolvePlan } from '#core/shot';
import { formatCount, formatQuantity } from '#core/units';
import { type ChannelName, DETAIL_CHANNELS, type DetailBody } from './body';
import { MOVED_FIGURES } from '../upscale';
import { detailFindings } from './checks';
import type { DetailCounts } from './detail';

export { Detail, type DetailCounts } from './detail';
export { type DetailBody, smallestOf } from './body';
export type { BasePart } from '../upscale';
export { collectDetail } from './collect';

export type DetailReport = FrameFacts & DetailCounts & { readonly inputVoxels: number };

/** Base voxels around matter in which the fine grid is awake. */
const REACH = 2;
/** Bytes of a voxel of the window: its fields (see fields.ts) and what the levels take. */
const BYTES_PER_VOXEL = 66;
/** Fine voxels of the window for one of the active tiles of what is read, both at the fine size: the window is a box around them. */
const WINDOW_PER_ACTIVE = 2.2;
/** Awake fine voxels for one of those of what is read, at the same size; they follow the edges of the matter more than its room. */
const AWAKE = 0.45;
const awake = (factor: number): number => AWAKE * 2 ** (3 - FOLLOWS) * factor ** FOLLOWS;
const FOLLOWS = 2.2;
/** What a voxel of the base takes, in fine ones: its lattice is smoothed and its pattern followed whatever the factor is. */
const OF_BASE = 30;

const kept = (own: DetailSettings): ChannelName[] => DETAIL_CHANNELS.filter((c) => own[c]);

export const detailDefinition: PassDefinition<DetailSettings, DetailBody, DetailReport> = {
  title: 'Detail',
  about:
    'A cached gas at a finer voxel size: its matter goes with its own motion and with added eddies that its voxels are too coarse for.',
  version: 1,
  essence: (body) => body,
  order: 'sequential',
  output: 'vdb',
  accepts: ['vdb'],
  needs: { vdb: ['vel', 'density'] },
  resolve: ({ shot, solve, input }, own) => {
    const { factor, limit, precision, compression, mayMove: _m, ...rest } = own;
    const { density: _d, temperature: _t, flame: _f, fuel: _u, colour: _c, uvw: _x, vel: _v, ...settings } = rest;
    const base = Math.min(...input.voxelSizes);
    if (!(base > 0 && Number.isFinite(base))) throw unknownSize();
    const voxelSize = base / factor;
    // Solids as a solve of this voxel size would have them.
    const plan = resolvePlan(shot, solve, 'final', voxelSize / solve.detail.voxelSize);
    const { framesPerSecond, timeScale, firstFrame, bounds, solids, followed } = plan.options;
    const channels = kept(own).filter((c) => input.channels.includes(c));
    return {
      body: {
        settings,
        channels,
        precision,
        compression,
        base,
        frameSeconds: input.frames.every / framesPerSecond,
        flow: {
          voxelSize,
          framesPerSecond,
          timeScale,
          firstFrame,
          lastFrame: firstFrame,
          preRoll: 0,
          firstFrameSolved: true,
          stepping: { cfl: 1, minimum: 1, maximum: 1, tolerance: 1, iterations: 0 },
          bounds: {
            mode: 'adaptive',
            limit:
              limit ??
              optionsOf(plan)
                .map((o) => o.bounds.limit)
                .reduce(around),
            walls: bounds.walls,
            reach: REACH * base,
          },
          sources: [],
          solids,
          followed,
          forces: { wind: [0, 0, 0], windTime: null, turbulence: null, fields: [], confinement: 0, confinementLength: 1, moves: {} },
          matter: { moves: {} },
        },
      },
      frames: input.frames,
      gives: { output: 'vdb', voxelSizes: [voxelSize], channels, file: input.file },
    };
  },
  geometry: ({ flow }) => [...new Set(flow.solids.flatMap(({ shape }) => (shape.kind === 'mesh' ? [shape.geometry] : [])))],
  sketch: { lead: 16, from: (body) => body },
  factor: ({ base, flow }) => base / flow.voxelSize,
  cost: {
    elements: ({ base, flow }, input) => input * (OF_BASE + (base / flow.voxelSize) ** 3),
    kept: ({ base, flow }, input) => input * awake(base / flow.voxelSize),
    rates: { secondsPerElement: 1e-7, bytesPerKept: 6 },
    memoryBytes: ({ base, flow, channels }, input) =>
      (BYTES_PER_VOXEL + 4 * channels.length) * WINDOW_PER_ACTIVE * AWAKE * input * (base / flow.voxelSize) ** 3 + 200 * input,
  },
  line: (r) =>
    `${formatCount(r.activeVoxels)} voxels, added up to ${formatQuantity(r.added, 'speed', { digits: 2 })}, ${String(Math.round(100 * r.apart))} % drawn back to the base`,
  figures: [
    ...MOVED_FIGURES,
    { id: 'apart', title: 'Drawn back to the base', unit: 'percent', of: (r) => 100 * r.apart },
    { id: 'added', title: 'Fastest that is added', unit: 'speed', of: (r) => r.added },
    { id: 'stretch', title: 'Stretch of the pattern', unit: 'none', of: (r) => r.stretch },
  ],
  checks: detailFindings,
  spectra: (r) => r.spectra,
  nothing: ({ baseVoxels, mass }) => {
    if (mass > 0) return null;
    if (baseVoxels === 0) return 'What it reads has no density at this frame.';
    return 'All of it lies outside the limit box: make the box larger.';
  },
};

const around = (a: Box3, b: Box3): Box3 => ({
  min: [Math.min(a.min[0], b.min[0]), Math.min(a.min[1], b.min[1]), Math.min(a.min[2], b.min[2])],
  max: [Math.max(a.max[0], b.max[0]), Math.max(a.max[1], b.max[1]), Math.max(a.max[2], b.max[2])],
});

const unknownSize = (): RuddleError<'settings-invalid'> =>
  new RuddleError('settings-invalid', 'The voxel size of what it reads is not known: its files hold no voxels.', {
    issues: [{ path: 'factor', message: 'the voxel size of what it reads is not known' }],
  });
