import {
  type Body,
  type Box3,
  type Distance,
  type Form,
  type FormMaker,
  type Pose,
  bodyBand,
  bodyDistance,
  formOf,
  isAnimated,
  pinned,
  poseOf,
} from '#core/geometry';
import type { MovingSolid } from '#core/grid';
import type { Vec3 } from '#core/math';
import { type Moment, atMoment } from '#core/moves';
import { type SolverSeconds, shotTime } from './clock';
import { driftOf } from './drift';
import type { FlowMatter, FlowOptions, FlowSource, ForceField, Solid } from './options';

interface SolidForm {
  readonly solid: Solid;
  readonly form: Form;
  readonly body: Body;
}

/** Shortest time that a motion is told over, seconds. */
const MOMENT = 1e-3;

/** A source as it is at a moment. */
export interface PlacedSource<Source extends FlowSource> {
  readonly source: Source;
  readonly pose: Pose;
}

/** Whether something goes elsewhere or changes its form. */
const moves = (item: Solid | FlowSource): boolean =>
  isAnimated(item.shape) || Object.keys(item.moves).some((path) => path.startsWith('shape.'));

/** Of what keys, expressions and animations of imported meshes move, the state at a moment. */
export class Motion<Source extends FlowSource = FlowSource, Matter extends FlowMatter = FlowMatter> {
  readonly #sourceForms: readonly Form[];
  readonly #regions: readonly (Form | null)[];
  readonly #still: readonly SolidForm[];
  readonly #moving: readonly SolidForm[];
  /** Of a wind that moves; null: it does not. */
  readonly #drift: ((time: SolverSeconds) => Vec3) | null;

  constructor(
    private readonly options: FlowOptions<Source, Matter>,
    maker: FormMaker,
  ) {
    const h = options.voxelSize;
    this.#sourceForms = options.sources.map((s) => formOf(s.shape, maker, h, (s.shell ?? 0) / 2));
    this.#regions = options.forces.fields.map((f) => f.shape && formOf(f.shape, maker, h, f.soft / 2));
    const solids = options.solids.map((solid): SolidForm => {
      const body: Body = { kind: solid.body, thickness: solid.thickness, offset: solid.offset * h };
      return { solid, body, form: formOf(solid.shape, maker, solid.voxelSize ?? h, bodyBand(body)) };
    });
    this.#still = solids.filter(({ solid }) => !moves(solid));
    this.#moving = solids.filter(({ solid }) => moves(solid));
    const blows = Object.keys(options.forces.moves).some((path) => path.startsWith('wind.'));
    this.#drift = blows ? driftOf((time) => this.wind(time), options.framesPerSecond) : null;
  }

  /** Distances of the solids that stand still. */
  stillSolids(): Distance[] {
    return this.#still.map(({ solid, form, body }) => bodyDistance(form.distance(this.#pose(solid.shape, 0)), body));
  }

  #moment(time: SolverSeconds): Moment {
    const { firstFrame, framesPerSecond, timeScale } = this.options;
    // Keys, expressions and animations know the shot's time only.
    return { time: shotTime(time, this.options), firstFrame, framesPerSecond: framesPerSecond * timeScale };
  }

  #pose(shape: Pose['shape'], time: SolverSeconds): Pose {
    const moment = this.#moment(time);
    return poseOf(shape, moment.time, moment.firstFrame, moment.framesPerSecond);
  }

  #solid(item: Solid, time: SolverSeconds): Pose {
    const moved = atMoment(item, item.moves, this.#moment(time), this.options.followed);
    return this.#pose(pinned(item.shape, moved.shape, item.turnsAbout), time);
  }

  sourceForm(index: number): Form {
    return this.#sourceForms[index] as Form;
  }

  travels(index: number): boolean {
    return moves(this.options.sources[index] as Source);
  }

  source(index: number, time: SolverSeconds): PlacedSource<Source> {
    const source = this.options.sources[index] as Source;
    if (Object.keys(source.moves).length === 0) return { source, pose: this.#pose(source.shape, time) };
    const moved = atMoment(source, source.moves, this.#moment(time), this.options.followed);
    return { source: moved, pose: this.#pose(pinned(source.shape, moved.shape, source.turnsAbout), time) };
  }

  /** Boxes of the moving solids at the end of [time, time + dt]. */
  solidBoxes(time: SolverSeconds): Box3[] {
    return this.#moving.map(({ solid, form, body }) => grown(form.bounds(this.#solid(solid, time)), body));
  }

  /** Distances of the moving solids at a moment. */
  movedSolids(time: SolverSeconds): Distance[] {
    return this.#moving.map(({ solid, form, body }) => bodyDistance(form.distance(this.#solid(solid, time)), body));
  }

  /** Moving solids at the end of [time, time + dt], with the velocity that takes them there. */
  solids(time: SolverSeconds, dt: number): MovingSolid[] {
    return this.#moving.map(({ solid, form, body }) => {
      const from = this.#solid(solid, time);
      const to = this.#solid(solid, time + dt);
      const distance = bodyDistance(form.distance(to), body);
      return { distance, bounds: grown(form.bounds(to), body), velocity: arriving(form, from, to, dt) };
    });
  }

  /** Fastest point of any moving solid during [time, time + dt], m/s. */
  solidSpeed(time: SolverSeconds, dt: number): number {
    return Math.max(0, ...this.#moving.map(({ solid, form }) => form.travel(this.#solid(solid, time), this.#solid(solid, time + dt)) / dt));
  }

  /** The wind: what the air outside of active tiles does, and what the air inside takes up. */
  wind(time: SolverSeconds): Vec3 {
    return this.forces(time).wind;
  }

  /** Metres that the wind has carried the air since the first frame. */
  drift(time: SolverSeconds): Vec3 {
    const { wind } = this.options.forces;
    return this.#drift ? this.#drift(time) : [wind[0] * time, wind[1] * time, wind[2] * time];
  }

  matter(time: SolverSeconds): Matter {
    const { matter, followed } = this.options;
    return Object.keys(matter.moves).length === 0 ? matter : atMoment(matter, matter.moves, this.#moment(time), followed);
  }

  /** Form of a force's region; null: it acts everywhere. */
  regionForm(index: number): Form | null {
    return this.#regions[index] ?? null;
  }

  /** A force of the list and its region at a moment. */
  field(index: number, time: SolverSeconds): { readonly field: ForceField; readonly pose: Pose | null } {
    const field = this.options.forces.fields[index] as ForceField;
    const moved = Object.keys(field.moves).length === 0 ? field : atMoment(field, field.moves, this.#moment(time), this.options.followed);
    return { field: moved, pose: moved.shape && this.#pose(moved.shape, time) };
  }

  /** How a force's region moves at a moment, told over `span` seconds or a moment: its material's velocity at points, and its fastest. null: it has no region. */
  fieldMotion(
    index: number,
    time: SolverSeconds,
    span = MOMENT,
  ): { readonly velocity: (x: number, y: number, z: number) => Vec3; readonly speed: number } | null {
    const form = this.regionForm(index);
    const from = this.field(index, time).pose;
    const over = Math.max(span, MOMENT);
    const to = this.field(index, time + over).pose;
    if (!form || !from || !to) return null;
    const speed = form.travel(from, to) / over;
    return { velocity: speed === 0 ? () => [0, 0, 0] : form.velocity(from, to, over), speed };
  }

  forces(time: SolverSeconds): FlowOptions['forces'] {
    const { forces, followed } = this.options;
    return Object.keys(forces.moves).length === 0 ? forces : atMoment(forces, forces.moves, this.#moment(time), followed);
  }
}

/** A body may stand out of its surface. */
function grown({ min, max }: Box3, { kind, thickness, offset }: Body): Box3 {
  const by = offset + (kind === 'thin' ? thickness / 2 : 0);
  return { min: [min[0] - by, min[1] - by, min[2] - by], max: [max[0] + by, max[1] + by, max[2] + by] };
}

/** Velocity that has brought a shape's material to a point of its present placement. */
function arriving(form: Form, from: Pose, to: Pose, dt: number): MovingSolid['velocity'] {
  if (form.travel(from, to) === 0) return () => [0, 0, 0];
  const back = form.velocity(to, from, dt);
  return (x, y, z) => {
    const v = back(x, y, z);
    return [-v[0], -v[1], -v[2]];
  };
}
