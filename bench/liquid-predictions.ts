import { isLiquidRun } from '#core/cost';
import { type ShotFile, parseShotFile } from '#core/shot';
import { rowsOf, tryShots } from './predictions';
import type { Section } from './section';

/** Frames of each: a splash is over in a second. */
const FRAMES = 24;

const box = (centre: readonly number[], size: readonly number[]): object => ({ kind: 'box', centre, size });
const tank = (size: readonly [number, number, number], walls: object = {}): object => ({
  limit: { min: [0, 0, 0], max: size },
  walls,
});

/** Liquids that were made up for this and that nothing was fitted on. */
const LIQUIDS: Readonly<Record<string, object>> = {
  'Column in a long tank': {
    detail: { voxelSize: 0.035 },
    bounds: tank([3, 1.5, 0.8]),
    sources: [{ name: 'Column', shape: box([0.35, 0.6, 0.4], [0.7, 1.2, 0.8]) }],
  },
  'Block into a pool': {
    detail: { voxelSize: 0.04 },
    bounds: tank([1.6, 2, 1.6]),
    sources: [
      { name: 'Pool', shape: box([0.8, 0.3, 0.8], [1.6, 0.6, 1.6]) },
      { name: 'Block', shape: { kind: 'ball', centre: [0.8, 1.4, 0.8], radius: 0.3 } },
    ],
  },
  'Spout over a tray': {
    detail: { voxelSize: 0.025 },
    bounds: tank([1.5, 1.4, 1], { left: 'open', right: 'open' }),
    sources: [{ name: 'Spout', act: 'emits', shape: box([0.2, 1.1, 0.5], [0.15, 0.15, 0.3]), velocity: [2, 0, 0] }],
  },
  'Thick slip from a ladle': {
    detail: { voxelSize: 0.03 },
    bounds: tank([1.2, 1.2, 1.2]),
    matter: { viscosity: 0.02, density: 1600 },
    sources: [{ name: 'Slip', shape: { kind: 'cylinder', centre: [0.6, 0.7, 0.6], radius: 0.3, height: 0.7 } }],
  },
  'Gate that lifts': {
    detail: { voxelSize: 0.035 },
    bounds: tank([2.4, 1.2, 0.7]),
    solids: [
      {
        name: 'Gate',
        shape: box([0.9, 0.5, 0.35], [0.1, 1.1, 0.9]),
        moves: {
          'shape.centre.y': {
            kind: 'keys',
            keys: [
              { frame: 3, value: 0.5 },
              { frame: 9, value: 1.2 },
            ],
          },
        },
      },
    ],
    sources: [{ name: 'Behind', shape: box([0.42, 0.4, 0.35], [0.84, 0.8, 0.7]) }],
  },
  'Deep basin, coarse inside': {
    detail: { voxelSize: 0.05, band: 4 },
    bounds: tank([2.4, 2.2, 2.4]),
    sources: [
      { name: 'Basin', shape: box([1.2, 0.7, 1.2], [2.4, 1.4, 2.4]) },
      { name: 'Wave', shape: box([0.5, 0.9, 1.2], [1, 1.8, 2.4]) },
    ],
  },
  'Lively, without weight at first': {
    detail: { voxelSize: 0.035 },
    bounds: tank([1.4, 1.4, 1.4]),
    matter: { transfer: 'flip' },
    forces: { fields: [{ kind: 'turbulence', name: 'Stirred', strength: 6, size: 0.6 }] },
    sources: [{ name: 'Half', shape: box([0.7, 0.35, 0.7], [1.4, 0.7, 1.4]) }],
  },
  'Drops with tension': {
    detail: { voxelSize: 0.0012 },
    bounds: tank([0.05, 0.05, 0.05]),
    matter: { tension: 0.07 },
    stepping: { maxSubsteps: 64 },
    sources: [
      { name: 'First', shape: { kind: 'ball', centre: [0.02, 0.02, 0.025], radius: 0.009 } },
      { name: 'Second', shape: { kind: 'ball', centre: [0.03, 0.036, 0.025], radius: 0.007 } },
    ],
  },
};

const shots = (): ShotFile[] =>
  Object.entries(LIQUIDS).map(([name, { solids, ...settings }]: [string, { solids?: unknown }]) =>
    parseShotFile(
      JSON.stringify({
        ruddle: 5,
        name,
        lastFrame: FRAMES,
        variants: [
          {
            name: 'Drawn',
            settings: { scene: { solids: solids ?? [] }, passes: [{ id: 'solve', kind: 'liquid', name: 'Solve', settings }] },
          },
        ],
      }),
      name,
    ),
  );

export const liquidPredictions: Section = {
  id: 'liquid-predictions',
  title: 'Predictions of eight liquids, each without its own Final: from its Test, and from the settings alone',
  async run({ quick, say }) {
    return rowsOf(await tryShots(quick ? shots().slice(0, 3) : shots(), say, isLiquidRun));
  },
};
