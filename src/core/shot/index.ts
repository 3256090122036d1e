export { cacheState, type CacheFacts } from './cache-state';
export { type FieldMeta, metaOf } from './fields';
export { type Path, type Edit, valueAtPath, putAtPath, applyEdits } from './paths';
export {
  settingsSchema,
  sourceSchema,
  solidSchema,
  GROUPS,
  type Group,
  type Settings,
  type SettingsInput,
  type ShapeSettings,
  type SourceSettings,
  type SolidSettings,
} from './settings';
export {
  SHOT_VERSION,
  shotFieldsSchema,
  shotFileSchema,
  type CameraSettings,
  parseShotFile,
  parseWith,
  type ShotFields,
  type ShotFile,
  type VariantFile,
} from './shot';
export { RUNGS, rungTitle, resolvePlan, defaultLimit, type Rung, type Plan } from './plan';
export { realSize, atRealSize, REAL_SIZE_FORMULAS, type RealSize } from './real-size';
export { runKey, canonicalJson, differences, type Difference } from './key';
export { inner, metaAt, showDifference, variantName } from './describe';
