import { RuddleError } from '#core/errors';
import type { ParticleColumns } from '#core/formats';
import type { KernelTeam } from '#core/grid';
import { type PassDefinition, listFrames } from '#core/pass';
import type { RefillSettings } from '#core/shot';
import { formatCount } from '#core/units';
import { Flight, type FlownReport, aliveBytes, flownNothing, velocityBytes } from '../flight';
import { AroundBirths } from './births';
import type { RefillBody } from './body';

export type { RefillBody } from './body';

export interface RefillReport extends FlownReport {
  /** Particles that were read. */
  readonly parents: number;
}

/** A run of particles born around others, with where they are born. */
export function refillFlight(
  body: RefillBody,
  team: KernelTeam,
  points: (frame: number) => ParticleColumns,
  from: Uint8Array | null = null,
): { readonly flight: Flight; readonly births: AroundBirths } {
  const { drag, weight } = body.settings;
  const births = new AroundBirths(body, points);
  return { flight: new Flight({ drag, weight, frameSeconds: body.frameSeconds }, births, team, from), births };
}

/** Of one that is read: how many of its own live so many frames after the first. */
const aliveOfEach = ({ settings, frameSeconds }: RefillBody, age: number): number =>
  settings.births === 'once' ? settings.each : settings.perSecond * Math.min((age + 1) * frameSeconds, settings.life);

/** Of a frame with so many particles that are read. */
export const aliveOf = (body: RefillBody, parents: number, age: number): number => parents * aliveOfEach(body, age);

export const refillDefinition: PassDefinition<RefillSettings, RefillBody, RefillReport> = {
  title: 'Refill',
  about: 'Many more particles, born on and around those of a cache, and carried by a cached gas.',
  version: 2,
  essence: (body) => body,
  order: 'sequential',
  output: 'ply',
  accepts: ['ply'],
  needs: {},
  beside: { velocity: { accepts: ['vdb'], needs: { vdb: ['vel'] } } },
  resolve: ({ shot, input, beside }, settings) => {
    const refuse = (path: string, message: string): RuddleError<'settings-invalid'> =>
      new RuddleError('settings-invalid', `This cannot be computed: ${message}.`, { issues: [{ path, message }] });
    const gas = beside.velocity;
    if (!gas) throw refuse('velocity', 'it has no velocity to be carried by');
    if (settings.births === 'once' && !input.channels.includes('id'))
      throw refuse(
        'births',
        'the particles that it reads have no number (id), so it cannot be told which are new: let them be born all the time',
      );
    const { every } = input.frames;
    const carried = new Set(listFrames(gas.frames));
    const both = listFrames(input.frames).filter((f) => carried.has(f));
    const [first, last] = [both[0], both[both.length - 1]];
    if (first === undefined || last === undefined) throw refuse('velocity', 'particles and velocity have no frame in common');
    // One after the other: no frame between the first and the last is missing on one side.
    if (both.length !== (last - first) / every + 1)
      throw refuse(
        'velocity',
        `the particles have every ${every === 1 ? '' : `${String(every)}. `}frame and the velocity does not: let it read a gas with all of them`,
      );
    return {
      body: {
        settings,
        frameSeconds: (shot.timeScale / shot.framesPerSecond) * every,
        firstFrame: first,
        ages: input.channels.includes('age'),
      },
      frames: { first, last, every },
      gives: { output: 'ply', voxelSizes: [], channels: ['v', 'age', 'life', 'id'], file: input.file },
    };
  },
  geometry: () => [],
  cost: {
    elements: (body, input, age, beside) => beside + aliveOf(body, input, age),
    kept: (body, input, age) => aliveOf(body, input, age),
    rates: { secondsPerElement: 5e-7, bytesPerKept: 44 },
    memoryBytes: (body, input, beside) => velocityBytes(beside) + aliveBytes(aliveOf(body, input, 1e9)),
  },
  line: (r) => `${formatCount(r.count)} particles around ${formatCount(r.parents)}, ${formatCount(r.born)} new`,
  figures: [{ id: 'count', title: 'Particles', unit: 'none', of: (r) => r.count }],
  checks: () => [],
  nothing: (r) =>
    flownNothing(
      r,
      r.parents === 0 ? 'What it reads has no particles at this frame.' : 'None is born: raise how many are born around each.',
    ),
};
