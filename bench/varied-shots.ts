import { mulberry32 } from '#core/math';
import { type ShotFile, parseShotFile } from '#core/shot';

/**
 * The shots that the shipped priors are fitted on, and those that they are only judged on: other numbers, of other kinds in another order. Chosen before
 * anything was fitted; never changed to please.
 */
export const FITTED: Drawn = {
  seed: 20_261,
  kinds: [
    'jet',
    'obstacles',
    'large fire',
    'turbulent',
    'strong wind',
    'burst',
    'thin haze',
    'moving solid',
    'coloured',
    'closed room',
    'cold dust',
    'several sources',
  ],
};
export const JUDGED: Drawn = {
  seed: 77_003,
  kinds: ['several sources', 'strong wind', 'closed room', 'large fire', 'moving solid', 'burst', 'cold dust', 'obstacles'],
};

interface Drawn {
  readonly seed: number;
  readonly kinds: readonly string[];
}

type Draw = ReturnType<typeof mulberry32>;
type Json = Record<string, unknown>;

const between = (r: Draw, low: number, high: number): number => Number((low + (high - low) * r()).toFixed(3));
/** As likely in each octave. */
const scale = (r: Draw, low: number, high: number): number => Number((low * (high / low) ** r()).toPrecision(3));
const chance = (r: Draw, part: number): boolean => r() < part;

const ball = (r: Draw, size: readonly number[], height: number, radius = scale(r, 0.25, 0.6)): Json => ({
  kind: 'ball',
  centre: [between(r, 0.35, 0.65) * (size[0] ?? 1), height, between(r, 0.35, 0.65) * (size[2] ?? 1)],
  radius,
});

const noise = (r: Draw): Json => ({
  amount: between(r, 0.3, 1),
  size: scale(r, 0.2, 0.8),
  change: scale(r, 0.1, 0.6),
  octaves: 1 + Math.floor(3 * r()),
  seed: 1 + Math.floor(90 * r()),
});

/** What makes a shot unlike the others; each is given the box and what all have, and changes what it wants. */
const KINDS: Readonly<Record<string, (r: Draw, s: Json & { readonly size: readonly number[] }) => Json>> = {
  'several sources': (r, { size }) => ({
    sources: Array.from({ length: 3 + Math.floor(3 * r()) }, () => ({
      shape: {
        kind: 'ball',
        centre: [between(r, 0.1, 0.9) * (size[0] ?? 1), between(r, 0.05, 0.4) * (size[1] ?? 1), between(r, 0.1, 0.9) * (size[2] ?? 1)],
        radius: scale(r, 0.15, 0.4),
      },
      heat: between(r, 40, 200),
      noise: chance(r, 0.5) ? noise(r) : null,
    })),
  }),
  'strong wind': (r, { size }) => ({
    sources: [
      {
        shape: {
          kind: 'ball',
          centre: [0.12 * (size[0] ?? 1), between(r, 0.2, 0.5) * (size[1] ?? 1), 0.5 * (size[2] ?? 1)],
          radius: scale(r, 0.2, 0.4),
        },
        heat: between(r, 30, 200),
        noise: noise(r),
      },
    ],
    forces: { wind: [between(r, 5, 10), 0, between(r, -1, 1)], windTime: scale(r, 0.2, 2) },
  }),
  'closed room': (r, { size }) => ({
    sources: [{ shape: ball(r, size, 0.4), heat: between(r, 50, 150), noise: noise(r) }],
    walls: Object.fromEntries(['left', 'right', 'floor', 'ceiling', 'back', 'front'].map((w) => [w, 'closed'])),
  }),
  'large fire': (r, { size }) => ({
    sources: [
      {
        shape: {
          kind: 'box',
          centre: [0.5 * (size[0] ?? 1), 0.3, 0.5 * (size[2] ?? 1)],
          size: [scale(r, 0.6, 1.6), 0.4, scale(r, 0.6, 1.6)],
        },
        heat: between(r, 500, 900),
        density: 0,
        fuel: between(r, 0.5, 1.5),
        noise: noise(r),
      },
    ],
    matter: { fire: { expansion: between(r, 0, 1.5), burnTime: scale(r, 0.15, 0.6) }, coolingTime: scale(r, 0.5, 3) },
  }),
  'moving solid': (r, { size }) => {
    const centre = [0.5 * (size[0] ?? 1), between(r, 1.2, 2), 0.5 * (size[2] ?? 1)];
    const swing = `${String(centre[0])} + ${String(between(r, 0.5, 1.2))} * sin(${String(between(r, 2, 6))} * time)`;
    return {
      sources: [{ shape: ball(r, size, 0.6), heat: between(r, 40, 120), noise: noise(r) }],
      solids: [
        {
          shape: chance(r, 0.5)
            ? { kind: 'ball', centre, radius: scale(r, 0.3, 0.6) }
            : { kind: 'box', centre, size: [scale(r, 0.4, 1), 0.5, scale(r, 0.4, 1)] },
          moves: { 'shape.centre.x': { kind: 'expression', text: swing } },
        },
      ],
    };
  },
  jet: (r, { size }) => ({
    sources: [
      {
        shape: {
          kind: 'ball',
          centre: [0.15 * (size[0] ?? 1), between(r, 0.3, 0.6) * (size[1] ?? 1), 0.5 * (size[2] ?? 1)],
          radius: scale(r, 0.15, 0.3),
        },
        heat: 0,
        velocity: [between(r, 5, 12), between(r, -1, 1), 0],
      },
    ],
  }),
  burst: (r, { size }) => ({
    sources: [
      {
        shape: ball(r, size, 0.6, scale(r, 0.4, 0.9)),
        heat: between(r, 200, 600),
        to: 2 + Math.floor(6 * r()),
        velocity: null,
        noise: noise(r),
      },
    ],
  }),
  'cold dust': (r, { size }) => ({
    sources: [
      {
        shape: ball(r, size, 0.7 * (size[1] ?? 1), scale(r, 0.25, 0.5)),
        heat: between(r, -60, -15),
        density: between(r, 0.5, 2),
        noise: noise(r),
      },
    ],
    matter: { sinking: between(r, 0.2, 1.5) },
  }),
  turbulent: (r, { size }) => ({
    sources: [{ shape: ball(r, size, 0.5), heat: between(r, 30, 150), noise: noise(r) }],
    forces: {
      turbulence: {
        strength: scale(r, 1, 6),
        size: scale(r, 0.4, 1.5),
        change: scale(r, 0.4, 2),
        octaves: 1 + Math.floor(3 * r()),
        seed: 3,
      },
      confinement: between(r, 0.05, 0.4),
    },
  }),
  coloured: (r, { size }) => ({
    sources: [
      { shape: ball(r, size, 0.5), heat: between(r, 50, 150), colour: [0.8, 0.4, 0.1], noise: noise(r) },
      { shape: ball(r, size, 0.6), heat: between(r, 50, 150), colour: [0.3, 0.2, 0.2] },
    ],
    matter: { colour: true, coordinates: chance(r, 0.5) },
  }),
  obstacles: (r, { size }) => ({
    sources: [{ shape: ball(r, size, 0.4), heat: between(r, 80, 250), noise: noise(r) }],
    solids: Array.from({ length: 2 + Math.floor(4 * r()) }, () => ({
      shape: {
        kind: 'box',
        centre: [between(r, 0.2, 0.8) * (size[0] ?? 1), between(r, 0.3, 0.7) * (size[1] ?? 1), between(r, 0.2, 0.8) * (size[2] ?? 1)],
        size: [scale(r, 0.3, 1.2), scale(r, 0.3, 0.8), scale(r, 0.3, 1.2)],
        rotation: [between(r, 0, 40), between(r, 0, 40), 0],
      },
    })),
  }),
  'thin haze': (r, { size }) => ({
    sources: [
      {
        shape: {
          kind: 'box',
          centre: [0.5 * (size[0] ?? 1), 0.3, 0.5 * (size[2] ?? 1)],
          size: [0.6 * (size[0] ?? 1), 0.3, 0.6 * (size[2] ?? 1)],
        },
        heat: between(r, 5, 20),
        density: between(r, 0.05, 0.2),
        noise: noise(r),
      },
    ],
    matter: { decayTime: scale(r, 0.5, 4) },
  }),
};

/** Small shots that differ in what decides about their cost, each with one variant; the same seed gives the same ones. */
export function variedShots({ seed, kinds }: Drawn): ShotFile[] {
  const r = mulberry32(seed);
  return kinds.map((name, n) => {
    const size = [scale(r, 3, 6), scale(r, 3, 7), scale(r, 3, 5)];
    const made = KINDS[name]?.(r, { size }) ?? {};
    const across = between(r, 80, 130);
    const schemes = ['ppm', 'ppm', 'ppm', 'maccormack', 'linear'];
    const settings = {
      detail: { voxelSize: Number((Math.max(...size) / across).toPrecision(3)) },
      stepping: { cfl: between(r, 1.5, 4), maxSubsteps: 2 + Math.floor(7 * r()) },
      bounds: {
        mode: 'adaptive',
        reach: scale(r, 0.1, 0.4),
        limit: { min: [0, 0, 0], max: size },
        walls: made.walls ?? { floor: 'closed' },
      },
      sources: made.sources,
      solids: made.solids ?? [],
      forces: {
        ...(chance(r, 0.4) && !made.forces ? { wind: [between(r, 0.3, 2), 0, between(r, -0.5, 0.5)] } : {}),
        ...(made.forces as Json | undefined),
      },
      matter: {
        lift: scale(r, 0.015, 0.05),
        scalarAdvection: schemes[Math.floor(schemes.length * r())],
        velocityAdvection: chance(r, 0.8) ? 'maccormack' : 'linear',
        ...(made.matter as Json | undefined),
      },
    };
    const file = {
      ruddle: 3,
      name: `${String(n + 1)} ${name}`,
      framesPerSecond: 24,
      firstFrame: 1,
      lastFrame: 28 + Math.floor(20 * r()),
      preRoll: 0,
      metresPerUnit: 1,
      budgets: { time: 7200, disk: 8e9, memory: 4e9 },
      variants: [{ name: 'Only', settings }],
    };
    return parseShotFile(JSON.stringify(file), file.name);
  });
}
