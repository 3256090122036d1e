import type { Plan } from './plan';

/** A plan as an older version of Ruddle stored it: what has come since is missing. */
type Stored = Omit<Plan, 'options' | 'file' | 'beside'> & {
  readonly beside?: Plan['beside'];
  readonly file: Partial<Plan['file']>;
  readonly options: Omit<Plan['options'], 'sources' | 'solids' | 'forces' | 'matter'> & {
    readonly sources: readonly object[];
    readonly solids: readonly object[];
    readonly forces: object;
    readonly matter: object;
  };
};

/**
 * Fills what a stored plan lacks with what it meant then: whoever reads old runs (predictions, comparing, the page) finds the fields of today. Keys are not
 * worked out from it: those were stored.
 */
export function completePlan(stored: unknown): Plan {
  const { options, file, ...rest } = stored as Stored;
  const moves = {};
  return {
    beside: [],
    ...rest,
    file: { timeScale: 1, ...file },
    options: {
      ...{ timeScale: 1, followed: {} },
      ...options,
      sources: options.sources.map((s) => ({
        shell: null,
        fuel: null,
        colour: [1, 1, 1],
        mask: null,
        inherits: 1,
        turnsAbout: null,
        byDensity: false,
        stir: null,
        contact: null,
        moves,
        ...s,
      })),
      solids: options.solids.map((s) => ({ body: 'filled', thickness: 0.1, offset: 0, voxelSize: null, turnsAbout: null, moves, ...s })),
      forces: { fields: [], moves, ...options.forces },
      matter: {
        heatSpread: 0,
        smoothing: 0,
        sharpening: 0,
        keepsMass: false,
        fire: null,
        colour: false,
        coordinates: false,
        moves,
        ...options.matter,
      },
    },
  } as unknown as Plan;
}
