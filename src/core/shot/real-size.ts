import { type Moves, scaledMoves } from '#core/moves';
import type { ForceFieldSettings, ShapeSettings, SolveSettings, SourceSettings } from './solve-settings';
import type { ShotFields } from './shot';

/**
 * The real-size calculator: a set that was built at 1:N is brought to its true size in one edit. The settings are lengths, speeds and times of the
 * world; what keeps the motion alike is the Froude number, speed^2 / (gravity x length) (Froude 1872): gravity stays, so speeds and times grow with
 * the square root of the size.
 */
export interface RealSize {
  /** N of 1:N; what was 1 m on the sheet is N m. */
  readonly factor: number;
  readonly metresPerUnit: number;
  /** True metres per true second over those on the sheet. */
  readonly speedFactor: number;
  readonly timeFactor: number;
  /** How much the same motion seems to be slowed down when it is shot at the small size and shown at the large one. */
  readonly gravityIfLeft: number;
  /** Time scale that makes the small set read as large, everything else left. */
  readonly timeScale: number;
  readonly voxelSize: number;
}

/** Formulas as they are shown beside the numbers. */
export const REAL_SIZE_FORMULAS = {
  lengths: 'lengths × N',
  speeds: 'speeds × √N',
  times: 'times × √N',
  gravity: 'left small, gravity would have to be g × N',
  voxels: 'voxel size × N: as many voxels as before',
} as const;

export function realSize(shot: ShotFields, settings: SolveSettings, factor: number): RealSize {
  const root = Math.sqrt(factor);
  return {
    factor,
    metresPerUnit: shot.metresPerUnit * factor,
    speedFactor: root,
    timeFactor: root,
    gravityIfLeft: 9.80665 * factor,
    timeScale: shot.timeScale / root,
    voxelSize: settings.detail.voxelSize * factor,
  };
}

type Triple = [number, number, number];

/**
 * The sheet at its real size. Lengths take N, speeds and times its root; accelerations, temperatures and rates per kelvin stay; amounts added each
 * second and decay rates take 1 / sqrt(N), so that the same fraction changes in the stretched time. Frame rate and frames stay as they are: a motion
 * that now lasts longer is seen in part.
 */
export function atRealSize(shot: ShotFields, settings: SolveSettings, factor: number): { shot: ShotFields; settings: SolveSettings } {
  const root = Math.sqrt(factor);
  const short = (v: number): number => Number(v.toPrecision(6));
  const length = (v: number): number => short(v * factor);
  const lengths = (v: readonly [number, number, number]): Triple => [length(v[0]), length(v[1]), length(v[2])];
  const speeds = (v: readonly [number, number, number]): Triple => [short(v[0] * root), short(v[1] * root), short(v[2] * root)];
  const time = (v: number): number => short(v * root);
  const shape = (s: ShapeSettings): ShapeSettings => {
    switch (s.kind) {
      case 'box':
        return { ...s, centre: lengths(s.centre), size: lengths(s.size) };
      case 'ball':
        return { ...s, centre: lengths(s.centre), radius: length(s.radius) };
      case 'cylinder':
        return { ...s, centre: lengths(s.centre), radius: length(s.radius), height: length(s.height) };
      case 'mesh':
        // Its own animation is stretched in time with everything else.
        return {
          ...s,
          centre: lengths(s.centre),
          scale: length(s.scale),
          pace: short(s.pace / root),
          pointRadius: s.pointRadius === null ? null : length(s.pointRadius),
        };
    }
  };
  const source = (s: SourceSettings): SourceSettings => {
    // Added each second: the amount per stretched second. A velocity that is added is an acceleration, and stays.
    const added = (v: number | null): number | null => (v === null || s.mode !== 'add' ? v : short(v / root));
    return {
      ...s,
      shape: shape(s.shape),
      shell: s.shell === null ? null : length(s.shell),
      density: added(s.density),
      heat: added(s.heat),
      fuel: added(s.fuel),
      velocity: s.velocity && s.mode !== 'add' ? speeds(s.velocity) : s.velocity,
      blendTime: time(s.blendTime),
      stir: s.stir && {
        ...s.stir,
        speed: s.mode === 'add' ? s.stir.speed : short(s.stir.speed * root),
        size: length(s.stir.size),
        change: time(s.stir.change),
      },
      contact: s.contact && { reach: length(s.contact.reach), trail: s.contact.trail === null ? null : time(s.contact.trail) },
      noise: s.noise && { ...s.noise, size: length(s.noise.size), change: time(s.noise.change) },
    };
  };
  // Keys and expressions: lengths grow, speeds with the root, what is added each second shrinks with it; all of it in stretched time.
  const moved = (moves: Moves, mode: SourceSettings['mode'] | null): SourceSettings['moves'] =>
    scaledMoves(moves, root, shot.firstFrame, (path) => {
      if (/^(shape\.)?(centre|size|radius|height)/.test(path)) return factor;
      if (path.startsWith('velocity') || path === 'stir.speed') return mode === 'add' ? 1 : root;
      return mode === 'add' && ['density', 'heat', 'fuel'].includes(path) ? 1 / root : 1;
    }) as SourceSettings['moves'];
  const field = (f: ForceFieldSettings): ForceFieldSettings => {
    const placed = { shape: f.shape && shape(f.shape), soft: length(f.soft), moves: moved(f.moves, null) };
    switch (f.kind) {
      case 'turbulence':
        return { ...f, ...placed, size: length(f.size), change: time(f.change) };
      case 'draught':
        return { ...f, ...placed, velocity: speeds(f.velocity), time: time(f.time) };
      case 'drag':
        return { ...f, ...placed, time: time(f.time) };
      case 'attraction':
        return { ...f, ...placed, centre: lengths(f.centre), reach: length(f.reach) };
      case 'curls':
        return { ...f, ...placed };
    }
  };
  const { bounds, forces, matter } = settings;
  return {
    shot: {
      ...shot,
      metresPerUnit: short(shot.metresPerUnit * factor),
      cameras: shot.cameras.map((c) => ({ ...c, position: lengths(c.position), target: lengths(c.target) })),
    },
    settings: {
      ...settings,
      detail: { ...settings.detail, voxelSize: length(settings.detail.voxelSize) },
      bounds: {
        ...bounds,
        reach: bounds.reach === null ? null : length(bounds.reach),
        quietSpeed: short(bounds.quietSpeed * root),
        limit: bounds.limit && { min: lengths(bounds.limit.min), max: lengths(bounds.limit.max) },
        beside: bounds.beside.map((b) => ({
          ...b,
          limit: { min: lengths(b.limit.min), max: lengths(b.limit.max) },
          voxelSize: b.voxelSize === null ? null : length(b.voxelSize),
        })),
      },
      sources: settings.sources.map((s) => ({
        ...source(s),
        turnsAbout: s.turnsAbout && lengths(s.turnsAbout),
        moves: moved(s.moves, s.mode),
      })),
      solids: settings.solids.map((s) => ({
        ...s,
        shape: shape(s.shape),
        thickness: length(s.thickness),
        voxelSize: s.voxelSize === null ? null : length(s.voxelSize),
        turnsAbout: s.turnsAbout && lengths(s.turnsAbout),
        moves: moved(s.moves, null),
      })),
      forces: {
        ...forces,
        moves: moved(forces.moves, null),
        wind: speeds(forces.wind),
        windTime: forces.windTime === null ? null : time(forces.windTime),
        turbulence: forces.turbulence && {
          ...forces.turbulence,
          size: length(forces.turbulence.size),
          change: time(forces.turbulence.change),
        },
        fields: forces.fields.map((f) => field(f)),
        // Its push is strength x this length x curl, and curls become slower by sqrt(N): the push stays when this takes sqrt(N) too.
        confinementLength: short(forces.confinementLength * root),
      },
      matter: {
        ...matter,
        moves: moved(matter.moves, null),
        fire: matter.fire && { ...matter.fire, burnTime: time(matter.fire.burnTime), loss: short(matter.fire.loss / root) },
        decayTime: matter.decayTime === null ? null : time(matter.decayTime),
        // Square metres a second: lengths over the root of time's stretch.
        heatSpread: short((matter.heatSpread * factor * factor) / root),
        smoothing: short((matter.smoothing * factor * factor) / root),
        sharpening: short(matter.sharpening / root),
        decayRate: short(matter.decayRate / root),
        coolingTime: matter.coolingTime === null ? null : time(matter.coolingTime),
      },
    },
  };
}
