export { cacheState, type CacheFacts } from './cache-state';
export { type FieldMeta, inner, metaOf } from './fields';
export { allMoves, followedBy } from './moves-schema';
export { type MoveMistakeAt, mistakesOfMoves, movedItem } from './moved';
export { sameUntil } from './same-until';
export { type Path, valueAtPath, putAtPath } from './paths';
export { type Edit, applyEdits } from './edits';
export { solidSchema, sourceSchema } from './items';
export { FIELD_KINDS, forceFieldSchema } from './forces';
export {
  solveSchema,
  besideSchema,
  type BesideSettings,
  GROUPS,
  type Group,
  type GasSolve,
  type GasSourceSettings,
  type SolveInput,
  type ShapeSettings,
  type SolidSettings,
  type ForceFieldSettings,
} from './solve-settings';
export {
  type SolveKind,
  type SolveSettings,
  type SourceSettings,
  isLiquid,
  isSolveKind,
  parsedSolve,
  schemaOfSolve,
  schemaOfSource,
  solveKindOf,
  withValue,
} from './solve';
export { liquidSolveSchema, liquidSourceSchema, type LiquidSolve, type LiquidSourceSettings } from './liquid-settings';
export {
  type Settings,
  blankSettings,
  gasSolveOf,
  settingsSchema,
  solveOf,
  withSolve,
  settingAt,
  withSetting,
  followersOf,
  withFollowers,
} from './settings';
export {
  SOLVE,
  passSchema,
  type PassInput,
  type FollowerKind,
  type InputRole,
  type PassKind,
  type PassSettings,
  type SolvePass,
  type RoledInput,
  inputsOf,
  withInput,
} from './passes-schema';
export {
  detailSettingsSchema,
  resampleSettingsSchema,
  retimeSettingsSchema,
  type DetailSettings,
  type ResampleSettings,
  type RetimeSettings,
} from './volume-passes';
export {
  SURFACE_SECTIONS,
  filterSchema,
  mostStrength,
  surfaceSettingsSchema,
  type FilterSettings,
  type SurfaceSettings,
} from './surface-settings';
export { fedSettingsSchema, heldSettingsSchema, type FedSettings, type HeldSettings } from './solve-passes';
export {
  particlesSettingsSchema,
  refillSettingsSchema,
  stillsSettingsSchema,
  type ParticlesSettings,
  type RefillSettings,
  type StillsSettings,
} from './point-passes';
export {
  shotFieldsSchema,
  shotFileSchema,
  type CameraSettings,
  parseShotFile,
  parseWith,
  type ShotFields,
  type ShotFile,
  type VariantFile,
} from './shot';
export { RUNGS, rungTitle, isLiquidPlan, type Rung, type Plan, type GasPlan, type LiquidPlan, type LiquidAttribute } from './plan-types';
export { planToRun, resolvePlan, optionsOf, planOfBounds, passOf, geometryOf, geometriesOfOptions, geometriesOfSettings } from './plan';
export { countOfBounds, settingsOfBounds } from './beside';
export { SOLID_VOXELS, widens, thicknessOf, widthOf } from './widths';
export { SHOT_VERSION, upgradedFile } from './upgrades';
export { planOfStored, readStoredFields, readStoredPlan, readStoredSettings, storedText } from './stored';
export { nesting } from './nesting';
export { defaultLimit, limitAround, limitOfView, meets } from './limit-from';
export { realSize, atRealSize, REAL_SIZE_FORMULAS, type RealSize } from './real-size';
export { essenceOfOptions, essenceOfPlan, runKey } from './key';
export { canonicalJson, differences, type Difference } from './canonical';
export { metaAt, settingsDifferences, showDifference, variantName } from './describe';
export { type FileUnit, FILE_UNITS, guessUnit } from './file-units';
export { importedShape, type ImportedFile } from './imported';
