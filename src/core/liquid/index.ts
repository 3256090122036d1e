export type { LiquidOptions, LiquidSource, LiquidMatter, SourceAct } from './options';
export {
  solveLiquid,
  LIQUID_VERSION,
  DOWN,
  leastBytes,
  bytesOfLiquid,
  type LiquidFrame,
  type LiquidCloud,
  type LiquidEnvironment,
} from './solver';
export { type LiquidReport, type ParticleLie, type SourceTold, type VolumeLedger, STAGES } from './report';
export { type Stream, streamOf } from './stream';
export { askedByFrame } from './asked';
export type { Held } from './emission';
export { coarseOf } from './band';
export { BYTES_AN_ENTRY, outerWindow } from './grid';
export { bytesEachParticle } from './particles';
export type { LiquidVolume } from './volumes';
export { tensionStep } from './tension';
