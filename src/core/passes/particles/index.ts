import { RuddleError } from '#core/errors';
import type { FormMaker, Shape } from '#core/geometry';
import type { KernelTeam } from '#core/grid';
import type { PassDefinition } from '#core/pass';
import { type ParticlesSettings, type SolveSettings, followedBy } from '#core/shot';
import { formatCount } from '#core/units';
import { Flight, type FlownReport, aliveBytes, flownNothing, velocityBytes } from '../flight';
import { PlaceBirths } from './births';
import type { ParticlesBody } from './body';

export type { ParticlesBody } from './body';

export type ParticlesReport = FlownReport;

/** A run of carried particles, to be begun or gone on with from its state. */
export const particlesFlight = (body: ParticlesBody, team: KernelTeam, maker: FormMaker, from: Uint8Array | null = null): Flight => {
  const { drag, weight } = body.settings;
  return new Flight({ drag, weight, frameSeconds: body.frameSeconds }, new PlaceBirths(body, maker), team, from);
};

/** Of what has no density that could keep particles from being born. */
const ALL_OF_IT = { density: 1, heat: null, fuel: null } as const;

type Source = SolveSettings['sources'][number];

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
  about: 'Particles that are born on sources or on a solid, and carried by a cached gas: sparks, ash, dust.',
  version: 2,
  essence: (body) => body,
  order: 'sequential',
  output: 'ply',
  accepts: ['vdb'],
  needs: { vdb: ['vel'] },
  resolve: ({ shot, solve, input }, { source, ...own }) => {
    const refuse = (path: string, message: string): RuddleError<'settings-invalid'> =>
      new RuddleError('settings-invalid', `Particles cannot be born: ${message}.`, { issues: [{ path, message }] });
    const sources = solve.sources.filter((s) => !s.hidden && (source === null || s.name === source));
    const solids = sources.length > 0 || source === null ? [] : solve.solids.filter((s) => !s.hidden && s.name === source);
    if (sources.length + solids.length === 0)
      throw refuse(
        'source',
        source === null ? 'there is no source that is not hidden' : `there is no source or solid "${source}" that is not hidden`,
      );
    if (solids.length > 0 && own.birth === 'volume')
      throw refuse('birth', `inside the solid "${source ?? ''}" there is no gas to carry them: let them be born on its surface`);
    return {
      body: {
        settings: own,
        places: [
          ...sources.map((s) => ({
            shape: nameless(s.shape),
            ...('density' in s ? { density: s.density, heat: s.heat, fuel: s.fuel } : ALL_OF_IT),
            turnsAbout: s.turnsAbout,
            moves: s.moves,
            ...(s.from === null && s.to === null ? {} : { during: { from: s.from, to: s.to, every: input.frames.every } }),
          })),
          // A solid gives nothing of its own that could keep them from being born.
          ...solids.map(({ shape, turnsAbout, moves }) => ({
            shape: nameless(shape),
            ...ALL_OF_IT,
            turnsAbout,
            moves,
          })),
        ],
        followed: followedBy(solve).followed,
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
    memoryBytes: (body, input) => velocityBytes(input) + aliveBytes(alive(body, 1e9)),
  },
  line: (r) => `${formatCount(r.count)} particles, ${formatCount(r.born)} new`,
  figures: [{ id: 'count', title: 'Particles', unit: 'none', of: (r) => r.count }],
  checks: () => [],
  nothing: (r) => flownNothing(r, 'None is born yet, or its sources give nothing at this frame: look at their density, heat and fuel.'),
};
