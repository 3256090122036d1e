import type { FrameFacts, PassDefinition, PassKindOps } from '#core/pass';
import type { FollowerKind, GasPlan, PassKind, Plan } from '#core/shot';
import { type FollowerPlan, followerOps } from './follower';
import { type GasReport, gasOps, gasVersion } from './gas';
import { type LiquidReport, liquidOps } from './liquid';
import { type DetailReport, detailDefinition } from './detail';
import { type FedReport, fedDefinition } from './fed';
import { type HeldReport, heldDefinition } from './held';
import { type ParticlesReport, particlesDefinition } from './particles';
import { type RefillReport, refillDefinition } from './refill';
import { type ResampleReport, resampleDefinition } from './resample';
import { type RetimeReport, retimeDefinition } from './retime';
import { type StillsReport, stillsDefinition } from './stills';
import { type SurfaceReport, surfaceDefinition } from './surface';

/** Kinds of passes that read others: a kind that is missing here does not compile. */
export const FOLLOWERS = {
  resample: resampleDefinition,
  detail: detailDefinition,
  held: heldDefinition,
  fed: fedDefinition,
  retime: retimeDefinition,
  particles: particlesDefinition,
  refill: refillDefinition,
  surface: surfaceDefinition,
  stills: stillsDefinition,
} as const satisfies Record<FollowerKind, unknown>;

/** Reports by kind. */
export interface PassReports {
  readonly gas: GasReport;
  readonly liquid: LiquidReport;
  readonly resample: ResampleReport;
  readonly detail: DetailReport;
  readonly held: HeldReport;
  readonly fed: FedReport;
  readonly retime: RetimeReport;
  readonly particles: ParticlesReport;
  readonly refill: RefillReport;
  readonly surface: SurfaceReport;
  readonly stills: StillsReport;
}
export type FollowerReport = PassReports[FollowerKind];
export type AnyReport = PassReports[PassKind];
export type AnyPlan = Plan | FollowerPlan;

/** A kind's definition for code that does not care which: settings and bodies go through it unread. */
export const definitionOf = (kind: FollowerKind): PassDefinition<unknown, unknown, FrameFacts> =>
  FOLLOWERS[kind] as unknown as PassDefinition<unknown, unknown, FrameFacts>;

/** What all code that handles runs may ask of every kind. */
const OPS = {
  gas: gasOps,
  liquid: liquidOps,
  resample: followerOps(resampleDefinition),
  detail: followerOps(detailDefinition),
  held: followerOps(heldDefinition, gasVersion),
  fed: followerOps(fedDefinition, gasVersion),
  retime: followerOps(retimeDefinition),
  particles: followerOps(particlesDefinition),
  refill: followerOps(refillDefinition),
  surface: followerOps(surfaceDefinition),
  stills: followerOps(stillsDefinition),
} as const satisfies Record<PassKind, unknown>;

export const isFollowerKind = (kind: string): kind is FollowerKind => Object.hasOwn(FOLLOWERS, kind);

/** Plans of the gas solve have the name of its files, from before there was another. */
export const kindOf = (plan: AnyPlan): PassKind => (plan.pass === 'solve' ? 'gas' : plan.pass);

/** The same, by a plan of any kind. */
export const opsOf = (plan: AnyPlan): PassKindOps<AnyPlan, AnyReport> => OPS[kindOf(plan)] as unknown as PassKindOps<AnyPlan, AnyReport>;

export const isGasPlan = (plan: AnyPlan): plan is GasPlan => plan.pass === 'solve';
/** A plan of the solve that a shot begins with. */
export const isSolvePlan = (plan: AnyPlan): plan is Plan => plan.pass === 'solve' || plan.pass === 'liquid';

/** Reports of the solve that a shot begins with. */
export type SolveReport = GasReport | LiquidReport;
export const isLiquidReport = (report: AnyReport): report is LiquidReport => 'surfaceVolume' in report;
