/** A JSON object. */
export type Json = Readonly<Record<string, unknown>>;

const objectOf = (v: unknown): Json => (typeof v === 'object' && v !== null && !Array.isArray(v) ? (v as Json) : {});
const listOf = (v: unknown): readonly Json[] => (Array.isArray(v) ? v.map(objectOf) : []);

const moves = {};

/**
 * A plan of version 1 with what it lacks filled in by what that meant then: whoever reads old runs (predictions, comparing, the page) finds the fields of
 * version 2. Keys are not worked out from it: those were stored. What is not there at all is left out, for the schema to say so.
 */
export function completedPlan(stored: Json): Json {
  if (stored['options'] === undefined) return stored;
  return {
    ...stored,
    beside: listOf(stored['beside']).map(completedOptions),
    file: { timeScale: 1, ...objectOf(stored['file']) },
    options: completedOptions(objectOf(stored['options'])),
  };
}

function completedOptions(options: Json): Json {
  return {
    timeScale: 1,
    followed: {},
    ...options,
    sources: listOf(options['sources']).map((s) => ({
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
    solids: listOf(options['solids']).map((s) => ({
      body: 'filled',
      thickness: 0.1,
      offset: 0,
      voxelSize: null,
      turnsAbout: null,
      moves,
      // The first solids were nothing but shapes.
      ...('shape' in s ? s : { shape: s }),
    })),
    forces: { fields: [], moves, ...objectOf(options['forces']) },
    matter: {
      heatSpread: 0,
      smoothing: 0,
      sharpening: 0,
      keepsMass: false,
      fire: null,
      colour: false,
      coordinates: false,
      moves,
      ...objectOf(options['matter']),
    },
  };
}
