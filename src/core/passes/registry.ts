import type { FrameFacts, PassDefinition } from '#core/pass';
import type { PassKind } from '#core/shot';
import { type ParticlesReport, particlesDefinition } from './particles';
import { type ResampleReport, resampleDefinition } from './resample';
import { type StillsReport, stillsDefinition } from './stills';

/** Every kind of pass that follows a solve: a kind that is missing here does not compile. */
export const PASSES = {
  resample: resampleDefinition,
  particles: particlesDefinition,
  stills: stillsDefinition,
} as const satisfies Record<PassKind, unknown>;

/** Reports by kind. */
export interface PassReports {
  readonly resample: ResampleReport;
  readonly particles: ParticlesReport;
  readonly stills: StillsReport;
}
export type AnyReport = PassReports[PassKind];

/** A kind's definition for code that does not care which: settings and bodies go through it unread. */
export const definitionOf = (kind: PassKind): PassDefinition<unknown, unknown, FrameFacts> =>
  PASSES[kind] as unknown as PassDefinition<unknown, unknown, FrameFacts>;

export const isPassKind = (kind: string): kind is PassKind => Object.hasOwn(PASSES, kind);
