import * as z from 'zod';
import { RuddleError } from '#core/errors';
import { type FollowerKind, planOfStored } from '#core/shot';
import { type AnyPlan, isFollowerKind } from './registry';

const frames = z.looseObject({ first: z.number(), last: z.number(), every: z.number().min(1) });

/** What a stored plan of a pass must have for anything to be read from it; bodies are their kinds' own. */
const schema = z.looseObject({
  pass: z.string().refine((kind): kind is FollowerKind => isFollowerKind(kind), { error: 'is no kind of pass of this Ruddle' }),
  rung: z.enum(['test', 'final']),
  frames,
  inputs: z.array(z.looseObject({ role: z.enum(['cache', 'velocity', 'more']), key: z.string() })),
  body: z.looseObject({}),
  gives: z.looseObject({
    output: z.enum(['vdb', 'ply', 'picture', 'mesh']),
    voxelSizes: z.array(z.number()),
    channels: z.array(z.string()),
    file: z.looseObject({ metresPerUnit: z.number(), upAxis: z.enum(['y', 'z']), timeScale: z.number() }),
    frames,
  }),
});

/** The plan of a run of any kind as its row has it. Throws `unreadable` with the reason. */
export function readAnyStoredPlan(text: string): AnyPlan {
  const what = 'The plan';
  const refuse = (reason: string, cause?: unknown): never => {
    throw new RuddleError('unreadable', `${what} cannot be read: ${reason}.`, { what, reason }, cause);
  };
  let stored: unknown;
  try {
    stored = JSON.parse(text);
  } catch (cause) {
    return refuse('it is not JSON', cause);
  }
  // The solves' plans have versions and upgrades of their own.
  if (['solve', 'liquid', undefined].includes((stored as { pass?: string } | null)?.pass)) return planOfStored(stored);
  const result = schema.safeParse(stored);
  if (!result.success) {
    const [issue] = result.error.issues;
    return refuse(`${issue?.path.join('.') ?? ''} ${issue?.message ?? ''}`.trim());
  }
  const { ruddle: _stamp, ...plan } = result.data;
  return plan;
}
