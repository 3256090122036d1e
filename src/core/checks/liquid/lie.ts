import type { LiquidReport } from '#core/liquid';
import { type Check, type LiquidCheckInput, type Remedy, framesOf, framesText } from '../finding';
import { spreadSooner } from './remedies';

/** Of the cells with liquid all around them, those without a particle: so many are holes in the bulk. */
const EMPTY = 0.01;
/** Of liquid cells, those that hold twice what they have room for. */
const CLUMPED = 0.03;
/** Voxels between particles and walls, on average. */
const GAP = 0.5;
/** Cells below which there is too little liquid to judge by. */
const ENOUGH = 200;
/** Frames that have to show it. */
const FRAMES = 3;
const MOST_ALONG = 4;

const moreParticles = (along: number): Remedy[] =>
  along >= MOST_ALONG
    ? []
    : [
        {
          title: `Particles along a voxel ${String(along)} → ${String(along + 1)} (${((along + 1) ** 3 / along ** 3).toFixed(1)} times as many)`,
          edits: [{ path: 'detail.particles', value: along + 1 }],
        },
      ];

const percent = (part: number): string => `${(100 * part).toFixed(part < 0.095 ? 1 : 0)} %`;

/** Voxels in the middle of the liquid hold no particle: their velocity is made up from what lies around. */
export const holes: Check<LiquidCheckInput> = {
  id: 'holes',
  find({ settings, reports }) {
    const part = ({ lie }: LiquidReport): number => (lie && lie.bulk >= ENOUGH ? lie.empty / lie.bulk : 0);
    const wrong = reports.filter((r) => part(r) > EMPTY);
    const frames = framesOf(wrong);
    if (!frames || wrong.length < FRAMES) return [];
    return [
      {
        id: 'holes',
        group: 'detail',
        severity: 'warning',
        title: `Up to ${percent(Math.max(...wrong.map(part)))} of the bulk holds no particle`,
        text: `In ${framesText(frames)}. Too few particles in a voxel: the liquid is lumpy, and its surface opens where it should be closed. Take more along a voxel, or calmer transfers (APIC).`,
        frames,
        remedies: [
          ...moreParticles(settings.detail.particles),
          ...(settings.matter.transfer === 'flip'
            ? [{ title: 'Transfer → APIC (affine)', edits: [{ path: 'matter.transfer', value: 'apic' }] }]
            : []),
        ],
      },
    ];
  },
};

/** Particles heap up: twice a voxel's volume and more in it. */
export const clumped: Check<LiquidCheckInput> = {
  id: 'clumps',
  find({ settings, reports }) {
    const part = ({ lie, liquidVoxels }: LiquidReport): number => (lie && liquidVoxels >= ENOUGH ? lie.clumps / liquidVoxels : 0);
    const wrong = reports.filter((r) => part(r) > CLUMPED);
    const frames = framesOf(wrong);
    if (!frames || wrong.length < FRAMES) return [];
    return [
      {
        id: 'clumps',
        group: 'matter',
        severity: 'warning',
        title: `Particles clump in up to ${percent(Math.max(...wrong.map(part)))} of the liquid`,
        text: `In ${framesText(frames)} these voxels hold more than twice the volume that they have room for. Let crowded liquid spread sooner, or take shorter substeps.`,
        frames,
        remedies: spreadSooner(settings),
      },
    ];
  },
};

/** The outermost particles stay away from the walls that hold them: a skin over them shows air there. */
export const gapAtWalls: Check<LiquidCheckInput> = {
  id: 'gap',
  find({ settings, reports }) {
    const gap = ({ lie }: LiquidReport): number => lie?.gap?.mean ?? 0;
    const wrong = reports.filter((r) => gap(r) > GAP);
    const frames = framesOf(wrong);
    if (!frames || wrong.length < FRAMES) return [];
    const worst = wrong.reduce((a, b) => (gap(b) > gap(a) ? b : a));
    return [
      {
        id: 'gap',
        group: 'detail',
        severity: 'warning',
        title: `Particles stay ${gap(worst).toFixed(2)} voxels away from walls`,
        text: `In ${framesText(frames)}, on average; ${(worst.lie?.gap?.largest ?? 0).toFixed(2)} at most. A skin over them shows air between the liquid and its container. More particles in a voxel come nearer.`,
        frames,
        remedies: moreParticles(settings.detail.particles),
      },
    ];
  },
};
