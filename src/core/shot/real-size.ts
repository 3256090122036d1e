import { GRAVITY } from '#core/units';
import { type Moves, scaledMoves } from '#core/moves';
import type { LiquidSolve, LiquidSourceSettings } from './liquid-settings';
import { type SolveSettings, isLiquid } from './solve';
import type { ForceFieldSettings, GasSolve, GasSourceSettings, ShapeSettings, SolidSettings } from './solve-settings';
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
    gravityIfLeft: GRAVITY * factor,
    timeScale: shot.timeScale / root,
    voxelSize: settings.detail.voxelSize * factor,
  };
}

type Triple = [number, number, number];

/** How numbers of settings scale with the size. */
class Scaling {
  readonly root: number;
  constructor(
    private readonly shot: ShotFields,
    readonly factor: number,
  ) {
    this.root = Math.sqrt(factor);
  }

  readonly short = (v: number): number => Number(v.toPrecision(6));
  readonly length = (v: number): number => this.short(v * this.factor);
  readonly lengths = (v: readonly [number, number, number]): Triple => [this.length(v[0]), this.length(v[1]), this.length(v[2])];
  readonly speed = (v: number): number => this.short(v * this.root);
  readonly speeds = (v: readonly [number, number, number]): Triple => [this.speed(v[0]), this.speed(v[1]), this.speed(v[2])];
  readonly time = (v: number): number => this.short(v * this.root);
  /** What happens a second. */
  readonly rate = (v: number): number => this.short(v / this.root);
  /** Square metres a second. */
  readonly spread = (v: number): number => this.short((v * this.factor * this.factor) / this.root);

  readonly box = <B extends { readonly min: readonly [number, number, number]; readonly max: readonly [number, number, number] }>({
    min,
    max,
  }: B): { min: Triple; max: Triple } => ({ min: this.lengths(min), max: this.lengths(max) });

  shape(s: ShapeSettings): ShapeSettings {
    switch (s.kind) {
      case 'box':
        return { ...s, centre: this.lengths(s.centre), size: this.lengths(s.size) };
      case 'ball':
        return { ...s, centre: this.lengths(s.centre), radius: this.length(s.radius) };
      case 'cylinder':
        return { ...s, centre: this.lengths(s.centre), radius: this.length(s.radius), height: this.length(s.height) };
      case 'mesh':
        // Its own animation is stretched in time with everything else.
        return {
          ...s,
          centre: this.lengths(s.centre),
          scale: this.length(s.scale),
          pace: this.rate(s.pace),
          pointRadius: s.pointRadius === null ? null : this.length(s.pointRadius),
        };
    }
  }

  /** Keys and expressions: lengths grow, speeds with the root, what is added each second shrinks with it; all of it in stretched time. */
  moved(moves: Moves, mode: GasSourceSettings['mode'] | null): GasSourceSettings['moves'] {
    const { factor, root } = this;
    return scaledMoves(moves, root, this.shot.firstFrame, (path) => {
      if (/^(shape\.)?(centre|size|radius|height)/.test(path)) return factor;
      if (path.startsWith('velocity') || path.startsWith('wind') || path === 'stir.speed') return mode === 'add' ? 1 : root;
      if (path === 'volumeRate') return factor ** 2.5;
      return mode === 'add' && ['density', 'heat', 'fuel'].includes(path) ? 1 / root : 1;
    }) as GasSourceSettings['moves'];
  }

  field(f: ForceFieldSettings): ForceFieldSettings {
    const placed = { shape: f.shape && this.shape(f.shape), soft: this.length(f.soft), moves: this.moved(f.moves, null) };
    switch (f.kind) {
      case 'turbulence':
        return { ...f, ...placed, size: this.length(f.size), change: this.time(f.change) };
      case 'draught':
        return { ...f, ...placed, velocity: this.speeds(f.velocity), time: this.time(f.time) };
      case 'guide':
      case 'drag':
        return { ...f, ...placed, time: this.time(f.time) };
      case 'attraction':
        return { ...f, ...placed, centre: this.lengths(f.centre), reach: this.length(f.reach) };
      case 'curls':
        return { ...f, ...placed };
    }
  }

  solid(s: SolidSettings): SolidSettings {
    return {
      ...s,
      shape: this.shape(s.shape),
      thickness: this.length(s.thickness),
      voxelSize: s.voxelSize === null ? null : this.length(s.voxelSize),
      turnsAbout: s.turnsAbout && this.lengths(s.turnsAbout),
      moves: this.moved(s.moves, null),
    };
  }

  gasSource(s: GasSourceSettings): GasSourceSettings {
    // Added each second: the amount per stretched second. A velocity that is added is an acceleration, and stays.
    const added = (v: number | null): number | null => (v === null || s.mode !== 'add' ? v : this.rate(v));
    return {
      ...s,
      shape: this.shape(s.shape),
      shell: s.shell === null ? null : this.length(s.shell),
      density: added(s.density),
      heat: added(s.heat),
      fuel: added(s.fuel),
      velocity: s.velocity && s.mode !== 'add' ? this.speeds(s.velocity) : s.velocity,
      blendTime: this.time(s.blendTime),
      stir: s.stir && {
        ...s.stir,
        speed: s.mode === 'add' ? s.stir.speed : this.speed(s.stir.speed),
        size: this.length(s.stir.size),
        change: this.time(s.stir.change),
      },
      contact: s.contact && { reach: this.length(s.contact.reach), trail: s.contact.trail === null ? null : this.time(s.contact.trail) },
      noise: s.noise && { ...s.noise, size: this.length(s.noise.size), change: this.time(s.noise.change) },
      turnsAbout: s.turnsAbout && this.lengths(s.turnsAbout),
      moves: this.moved(s.moves, s.mode),
    };
  }

  liquidSource(s: LiquidSourceSettings): LiquidSourceSettings {
    return {
      ...s,
      shape: this.shape(s.shape),
      shell: s.shell === null ? null : this.length(s.shell),
      velocity: this.speeds(s.velocity),
      volumeRate: s.volumeRate === null ? null : this.short(s.volumeRate * this.factor ** 2.5),
      noise: s.noise && { ...s.noise, size: this.length(s.noise.size), change: this.time(s.noise.change) },
      viscosity: s.viscosity === null ? null : this.spread(s.viscosity),
      turnsAbout: s.turnsAbout && this.lengths(s.turnsAbout),
      moves: this.moved(s.moves, null),
    };
  }
}

/**
 * The sheet at its real size. Lengths take N, speeds and times its root; accelerations, temperatures and rates per kelvin stay; amounts added each
 * second and decay rates take 1 / sqrt(N), so that the same fraction changes in the stretched time. Frame rate and frames stay as they are: a motion
 * that now lasts longer is seen in part.
 */
export function atRealSize<S extends SolveSettings>(shot: ShotFields, settings: S, factor: number): { shot: ShotFields; settings: S } {
  const scaling = new Scaling(shot, factor);
  return {
    shot: {
      ...shot,
      metresPerUnit: scaling.length(shot.metresPerUnit),
      cameras: shot.cameras.map((c) => ({ ...c, position: scaling.lengths(c.position), target: scaling.lengths(c.target) })),
    },
    settings: (isLiquid(settings) ? liquidAtRealSize(settings, scaling) : gasAtRealSize(settings, scaling)) as S,
  };
}

function liquidAtRealSize(settings: LiquidSolve, s: Scaling): LiquidSolve {
  const { bounds, forces, matter } = settings;
  return {
    ...settings,
    detail: { ...settings.detail, voxelSize: s.length(settings.detail.voxelSize) },
    bounds: { ...bounds, limit: bounds.limit && s.box(bounds.limit) },
    sources: settings.sources.map((x) => s.liquidSource(x)),
    solids: settings.solids.map((x) => s.solid(x)),
    forces: {
      ...forces,
      moves: s.moved(forces.moves, null),
      wind: s.speeds(forces.wind),
      airDrag: s.rate(forces.airDrag),
      fields: forces.fields.map((f) => s.field(f)),
    },
    matter: {
      ...matter,
      viscosity: s.spread(matter.viscosity),
      blendRate: s.rate(matter.blendRate),
      volumeTime: s.time(matter.volumeTime),
    },
  };
}

function gasAtRealSize(settings: GasSolve, s: Scaling): GasSolve {
  const { bounds, forces, matter } = settings;
  return {
    ...settings,
    detail: { ...settings.detail, voxelSize: s.length(settings.detail.voxelSize) },
    bounds: {
      ...bounds,
      reach: bounds.reach === null ? null : s.length(bounds.reach),
      quietSpeed: s.speed(bounds.quietSpeed),
      limit: bounds.limit && s.box(bounds.limit),
      beside: bounds.beside.map((b) => ({
        ...b,
        limit: s.box(b.limit),
        voxelSize: b.voxelSize === null ? null : s.length(b.voxelSize),
      })),
    },
    sources: settings.sources.map((x) => s.gasSource(x)),
    solids: settings.solids.map((x) => s.solid(x)),
    forces: {
      ...forces,
      moves: s.moved(forces.moves, null),
      wind: s.speeds(forces.wind),
      windTime: forces.windTime === null ? null : s.time(forces.windTime),
      turbulence: forces.turbulence && {
        ...forces.turbulence,
        size: s.length(forces.turbulence.size),
        change: s.time(forces.turbulence.change),
      },
      fields: forces.fields.map((f) => s.field(f)),
      // Its push is strength x this length x curl, and curls become slower by sqrt(N): the push stays when this takes sqrt(N) too.
      confinementLength: s.speed(forces.confinementLength),
    },
    matter: {
      ...matter,
      moves: s.moved(matter.moves, null),
      fire: matter.fire && { ...matter.fire, burnTime: s.time(matter.fire.burnTime), loss: s.rate(matter.fire.loss) },
      decayTime: matter.decayTime === null ? null : s.time(matter.decayTime),
      heatSpread: s.spread(matter.heatSpread),
      smoothing: s.spread(matter.smoothing),
      sharpening: s.rate(matter.sharpening),
      decayRate: s.rate(matter.decayRate),
      coolingTime: matter.coolingTime === null ? null : s.time(matter.coolingTime),
    },
  };
}
