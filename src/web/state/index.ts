export { api, ApiError } from './api';
export { type RunningImport, startImport, useImportProgress } from './importing';
export { useShots, useShot, useRun, useStatus, queryClient } from './queries';
export { connectEvents, useProgress, useConnection } from './events';
export { useSheet, useSolve, useSolveBase, useEdits, type SheetState } from './sheet';
export { type Route, useRoute, navigate, linkTo } from './route';
export { GROUNDS, useGround, setGround, type Ground } from './ground';
export { useThemeMode, setThemeMode, type ThemeMode } from './theme-mode';
export { say, useNotice, type Notice, sayError } from './notice';
export { useStateOf } from './cache-state';
export { useEvidence, usePredictor, type Predictor } from './evidence';
export { mainSketch, useMainSketch, useSketchLife, useTellSketching } from './main-sketch';
export { createSketch, type Sketch, type SketchState } from './sketch';
export { type PointsLook, setPointsLook, usePointsLook } from './points-look';
export { liveById, mainPassSketch, usePassSketch, usePassSketchLife } from './main-pass-sketch';
export { type FoundInPass, usePassFindings } from './pass-findings';
export { PASS_SKETCH, type PassSketchState, asPassRun, passSketchOf } from './pass-sketch';
export {
  type PassState,
  type SolveLoads,
  type WouldBeStale,
  costOfInputs,
  givesOf,
  passPredictor,
  passKinds,
  staleAfter,
  usePassRun,
  usePassStates,
} from './passes';
export { type SkinLook, setSkinLook, useSkinLook } from './mesh-look';
