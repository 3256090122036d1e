import type { Prediction } from '#core/cost';
import { type GasPlan, gasSolveOf, resolvePlan, shotFieldsSchema } from '#core/shot';
import type { FrameDto, RunDto, ShotDto, ShotRowDto } from '#protocol';
import { type Deep, merged } from './merge';
import { makeReport } from './reports';
import { settingsOf } from './settings';

const fields = shotFieldsSchema.parse({ name: 'Kiln lid', lastFrame: 24 });
const settings = settingsOf({
  detail: { voxelSize: 0.05 },
  sources: [{ name: 'Fire bed', shape: { kind: 'ball', centre: [0, 0.5, 0], radius: 0.4 }, heat: 400 }],
});

/** A shot with one variant, without runs. */
export const makeShot = (changes: Deep<ShotDto> = {}): ShotDto =>
  merged<ShotDto>(
    {
      id: 'shot-1',
      slug: 'kiln-lid',
      fields,
      revision: 1,
      variants: [{ id: 'variant-1', name: 'First', parentId: null, frozen: false, settings, draft: null, revision: 0 }],
      runs: [],
      passRuns: [],
      folders: {},
      measures: [],
      broken: [],
    },
    changes,
  );

type ReadableRow = Extract<ShotRowDto, { readable: true }>;

/** The made-up shot as a row of the list of all. */
export const makeRow = (changes: Partial<ReadableRow> = {}): ReadableRow => {
  const { id, slug, variants } = makeShot();
  return { readable: true, id, slug, lastActivity: 0, fields, variants: variants.length, runs: [], ...changes };
};

/** A run of a gas solve. */
type GasRunDto = RunDto & { readonly plan: GasPlan };

/** A Test of the made-up shot that ended well: all 24 frames, a second each. */
export const makeRun = (changes: Deep<GasRunDto> = {}): GasRunDto =>
  merged<GasRunDto>(
    {
      id: 'run-1',
      number: 1,
      shotId: 'shot-1',
      passId: 'solve',
      kind: 'gas',
      variantId: 'variant-1',
      rung: 'test',
      state: 'done',
      frameCount: 24,
      framesDone: 24,
      damagedFrames: 0,
      missingFrames: 0,
      seconds: 24,
      bytes: 48e6,
      freed: false,
      approved: false,
      firstFrame: 1,
      preRoll: 0,
      voxelSize: 0.1,
      key: 'key-1',
      error: null,
      createdAt: Date.UTC(2026, 2, 1),
      startedAt: Date.UTC(2026, 2, 1),
      endedAt: Date.UTC(2026, 2, 1, 0, 1),
      memoryBytes: 90e6,
      restorable: false,
      folder: '/caches/kiln-lid/run-1',
      plan: resolvePlan(fields, gasSolveOf(settings), 'test'),
      codeVersion: '1',
      prediction: null,
      notes: '',
    },
    changes,
  );

export const makeFrame = (frame: number, changes: Deep<FrameDto> = {}): FrameDto =>
  merged<FrameDto>({ frame, inRange: true, stored: true, damage: null, bytes: 2e6, report: makeReport({ frame }) }, changes);

/** Ten seconds, with a range of 7 to 15. */
export const makePrediction = (changes: Deep<Prediction> = {}): Prediction =>
  merged<Prediction>(
    {
      voxels: { low: 8e4, likely: 1e5, high: 1.2e5 },
      memory: { low: 8e7, likely: 1e8, high: 1.2e8 },
      disk: { low: 3e7, likely: 5e7, high: 8e7 },
      time: { low: 7, likely: 10, high: 15 },
      basis: 'settings',
      from: 'the settings alone',
    },
    changes,
  );
