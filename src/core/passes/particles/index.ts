import { RuddleError } from '#core/errors';
import type { Shape } from '#core/geometry';
import type { FrameFacts, PassDefinition } from '#core/pass';
import { type ParticlesSettings, type Settings, followedBy } from '#core/shot';
import { formatCount } from '#core/units';
import type { ParticlesBody } from './body';

export { Flight } from './flight';
export type { VelocityPart } from './velocity';
export type { ParticlesBody } from './body';

export interface ParticlesReport extends FrameFacts {
  readonly count: number;
  readonly born: number;
  readonly gone: number;
  readonly substeps: number;
}

type Source = Settings['sources'][number];

/** What a file was called changes no result. */
function nameless(shape: Source['shape']): Shape {
  if (shape.kind !== 'mesh') return shape;
  const { file: _file, content: _content, ...rest } = shape;
  return rest;
}

/** Particles that live at a frame so many frames after the first. */
const alive = ({ settings, frameSeconds }: ParticlesBody, age: number): number =>
  settings.perSecond * Math.min((age + 1) * frameSeconds, settings.life);

export const particlesDefinition: PassDefinition<ParticlesSettings, ParticlesBody, ParticlesReport> = {
  title: 'Particles',
  about: 'Particles that are born on sources and carried by a cached gas: sparks, ash, dust.',
  version: 1,
  order: 'sequential',
  accepts: ['vdb'],
  needs: ['vel'],
  resolve: ({ shot, settings, input }, { source, ...own }) => {
    const sources = settings.sources.filter((s) => !s.hidden && (source === null || s.name === source));
    if (sources.length === 0) {
      const message = source === null ? 'there is no source that is not hidden' : `there is no source "${source}" that is not hidden`;
      throw new RuddleError('settings-invalid', `Particles are born on sources, and ${message}.`, {
        issues: [{ path: 'source', message }],
      });
    }
    return {
      body: {
        settings: own,
        places: sources.map(({ shape, density, heat, fuel, turnsAbout, moves }) => ({
          shape: nameless(shape),
          density,
          heat,
          fuel,
          turnsAbout,
          moves,
        })),
        followed: followedBy(settings).followed,
        frameSeconds: (shot.timeScale / shot.framesPerSecond) * input.frames.every,
        firstFrame: shot.firstFrame,
        framesPerSecond: shot.framesPerSecond,
      },
      frames: input.frames,
      gives: { output: 'ply', voxelSizes: [], channels: ['v', 'age', 'life', 'id'], file: input.file },
    };
  },
  geometry: ({ places }) => [...new Set(places.flatMap(({ shape }) => (shape.kind === 'mesh' ? [shape.geometry] : [])))],
  cost: {
    elements: (body, input, age) => input + alive(body, age),
    kept: (body, _input, age) => alive(body, age),
    rates: { secondsPerElement: 5e-7, bytesPerKept: 44 },
    memoryBytes: (body, input) => 8192 * 3 * (input / 400) + 80 * alive(body, 1e9),
  },
  line: (r) => `${formatCount(r.count)} particles, ${formatCount(r.born)} new`,
  nothing: ({ count, born }) => {
    if (count > 0) return null;
    return born > 0
      ? 'All of them are past their age limit within the frame: raise it.'
      : 'None is born yet, or its sources give nothing at this frame: look at their density, heat and fuel.';
  },
};
