import type { FrameFacts } from '#core/pass';
import type { FollowerKind } from '#core/shot';
import type { PassWorker } from './contract';
import { detailPass } from './detail';
import { fedPass } from './fed';
import { heldPass } from './held';
import { particlesPass } from './particles';
import { refillPass } from './refill';
import { resamplePass } from './resample';
import { retimePass } from './retime';
import { stillsPass } from './stills';
import { surfacePass } from './surface';

export type { PassJob, PassOutput, PassPart, PassReader, PassRunner } from './contract';

/** How each kind is computed: one that is missing here does not compile. */
const WORKERS = {
  resample: resamplePass,
  detail: detailPass,
  held: heldPass,
  fed: fedPass,
  retime: retimePass,
  particles: particlesPass,
  refill: refillPass,
  surface: surfacePass,
  stills: stillsPass,
} satisfies Record<FollowerKind, unknown>;

/** A kind's way of computing for code that does not care which: its bodies go through it unread. */
export const passWorkerOf = (kind: FollowerKind): PassWorker<unknown, FrameFacts> =>
  WORKERS[kind] as unknown as PassWorker<unknown, FrameFacts>;
