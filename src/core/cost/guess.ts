import { type Census, chooseActive, limitWindow, windowAround } from '#core/flow';
import { pushOf, windowBytes } from '#core/gas';
import { type Box3, shapeBounds } from '#core/geometry';
import { TILE, windowOf } from '#core/grid';
import { type GasPlan, optionsOf, planOfBounds } from '#core/shot';
import { type PredictedFrame, expectedSubsteps } from './extrapolate';
import { type Lessons, bytesOfVoxel, learn } from './lessons';

/** Angle at which a plume widens, as a slope: what is measured on buoyant plumes (Morton, Taylor, Turner 1956: about 0.1 to 0.16 a side). */
const SPREAD = 0.13;
const ITERATIONS = 4;
/** Speed of a body of gas over sqrt(push x its size), once it moves. */
const RISE = 1.1;
/** Fastest over the body's own speed. */
const PEAK = 1.5;
/** Part of the heat of burning that flames keep. */
const FLAME = 0.6;
/** A turbulent jet reaches sqrt(this x diameter x speed x time): its speed falls with the way. */
const JET = 12;
/** Of the speed that eddies push to in their time, how much takes matter apart. */
const STIRRED = 0.25;
/** What falls on a closed floor, or rises against a ceiling, runs apart on it by this part of the way that is left. */
const SPREADS = 0.9;
/** Places along a plume's way that are looked at, at most, and frames in a row of which one is. */
const PLACES = 16;
const EVERY = 3;
/** So many frames are looked at like that; of what comes later in a long shot so many in all: 14,640 frames took 3.2 s. */
const CLOSELY = 900;
const LATER_LOOKS = 300;

/** Tiles of the limit box that are looked at one by one. */
const MOST_TILES = 60_000;
/** Voxels a side that a window has to spare, on average. */
const SPARE = 12;

/** Pressure solves of a substep. */
const solves = (plan: GasPlan): number => (plan.options.matter.velocityAdvection === 'reflection' ? 2 : 1);

interface Plume {
  readonly middle: readonly [number, number, number];
  /** Half the source's edges. */
  readonly half: readonly [number, number, number];
  /** Seconds in which the source emits. */
  readonly from: number;
  readonly to: number;
  readonly fastest: number;
  /** Where matter is that left the source so long ago, from its middle, in air that stands still. */
  readonly way: (age: number) => [number, number, number];
  /** Of the air. */
  readonly wind: readonly [number, number, number];
  /** How far eddies have taken it apart. */
  readonly stirred: (age: number) => number;
  /** Closed ways down and up: their heights. */
  readonly floor: number;
  readonly ceiling: number;
  /** What leaves it is gone. */
  readonly limit: Box3;
}

function plumesOf({ options: o }: GasPlan): Plume[] {
  const seconds = (frame: number): number => (frame - o.firstFrame + o.preRoll) / o.framesPerSecond;
  return o.sources.map((s) => {
    const box: Box3 = shapeBounds(s.shape);
    const half = ([0, 1, 2] as const).map((a) => (box.max[a] - box.min[a]) / 2) as [number, number, number];
    const size = 2 * Math.cbrt(half[0] * half[1] * half[2]);
    const { fire } = o.matter;
    const heat = Math.max(s.heat ?? 0, fire && s.fuel ? FLAME * fire.heat * Math.min(1, s.fuel) : 0) || (s.heat ?? 0);
    const push = pushOf(o.matter, s.density ?? 0, heat);
    // A body of gas under this push comes to about sqrt(push x its size), and gains it as it falls or rises.
    const rise = Math.sign(push) * RISE * Math.sqrt(Math.abs(push) * size);
    const gains = rise === 0 ? 1 : Math.abs(rise / push);
    const own = s.velocity ?? ([0, 0, 0] as const);
    const ownSpeed = Math.hypot(...own);
    const way = (age: number): [number, number, number] => {
      const lifted = rise * (age - gains * -Math.expm1(-age / gains));
      const thrown = ownSpeed === 0 ? 0 : Math.min(ownSpeed * age, Math.sqrt(JET * size * ownSpeed * age)) / ownSpeed;
      return [0, 1, 2].map((a) => (own[a] ?? 0) * thrown + (a === 1 ? lifted : 0)) as [number, number, number];
    };
    const { turbulence } = o.forces;
    const eddies = turbulence ? turbulence.strength * STIRRED : 0;
    const { limit, walls } = o.bounds;
    return {
      wind: o.forces.wind,
      stirred: (age) => eddies * age * Math.min(age, turbulence?.change ?? 0),
      floor: walls.floor === 'closed' ? limit.min[1] : -Infinity,
      ceiling: walls.ceiling === 'closed' ? limit.max[1] : Infinity,
      limit,
      middle: ([0, 1, 2] as const).map((a) => (box.min[a] + box.max[a]) / 2) as [number, number, number],
      half,
      from: s.from === null ? 0 : Math.max(0, seconds(s.from) - 1 / o.framesPerSecond),
      to: s.to === null ? Infinity : seconds(s.to),
      fastest: Math.max(ownSpeed, PEAK * Math.abs(rise), Math.hypot(...o.forces.wind)),
      way,
    };
  });
}

/** The oldest age of matter that has not left the limit box: the places that are looked at are spread over what is in it. */
function lastInside(youngest: number, oldest: number, isOut: (age: number) => boolean): number {
  if (!isOut(oldest)) return oldest;
  let [inside, outside] = [youngest, oldest];
  for (let n = 0; n < 24; n++) {
    const middle = (inside + outside) / 2;
    if (isOut(middle)) outside = middle;
    else inside = middle;
  }
  return outside;
}

/** Boxes of world voxels that hold a plume's matter at a time. */
function boxesOf(p: Plume, time: number, h: number): number[] {
  if (time < p.from) return [];
  const place = (age: number): number[] => p.way(age).map((v, a) => v + (p.wind[a] ?? 0) * age);
  const widerAt = (age: number): number => SPREAD * Math.hypot(...p.way(age)) + p.stirred(age);
  const youngest = Math.max(0, time - p.to);
  const oldest = lastInside(youngest, time - p.from, (age) => {
    const [room, at] = [widerAt(age), place(age)];
    return ([0, 1, 2] as const).some((a) => {
      const [v, half] = [(at[a] ?? 0) + (p.middle[a] ?? 0), p.half[a] + room];
      const [low, high] = a === 1 ? [p.floor, p.ceiling] : [-Infinity, Infinity];
      // A closed side keeps it in.
      return (v + half < p.limit.min[a] && low === -Infinity) || (v - half > p.limit.max[a] && high === Infinity);
    });
  });
  const length = Math.hypot(...place(oldest).map((v, a) => v - (place(youngest)[a] ?? 0)));
  const places = Math.max(1, Math.min(PLACES, Math.ceil(length / Math.min(...p.half)) + 1));
  const boxes: number[] = [];
  for (let n = 0; n < places; n++) {
    const age = places === 1 ? oldest : youngest + ((oldest - youngest) * n) / (places - 1);
    const at = place(age).map((v, a) => v + (p.middle[a] ?? 0));
    const wider = widerAt(age);
    const y = Math.min(p.ceiling - p.half[1], Math.max(p.floor + p.half[1], at[1] ?? 0));
    const apart = SPREADS * Math.abs((at[1] ?? 0) - y);
    at[1] = y;
    const edge = (a: 0 | 1 | 2, side: -1 | 1): number => ((at[a] ?? 0) + side * (p.half[a] + wider + (a === 1 ? 0 : apart))) / h;
    boxes.push(...([0, 1, 2] as const).map((a) => Math.floor(edge(a, -1))), ...([0, 1, 2] as const).map((a) => Math.ceil(edge(a, 1)) - 1));
  }
  return boxes;
}

/**
 * Frames of a plan from its settings alone, when nothing comparable was ever run: each source's plume is swept along wind, lift and its own velocity, widens
 * as plumes do, and wakes the tiles that matter there would wake. Good for the order of size only, and the range says so.
 */
export function guessFrames(plan: GasPlan, lessons: Lessons): PredictedFrame[] {
  const o = plan.options;
  const whole = limitWindow(o);
  // On so large a lattice that it can be looked at at once.
  let h = o.voxelSize;
  let limit = whole;
  for (; limit.nx * limit.ny * limit.nz > 512 * MOST_TILES; h *= 2) limit = limitWindow({ ...o, voxelSize: 2 * h });
  const coarser = h / o.voxelSize;
  const most = whole.nx * whole.ny * whole.nz;
  const begin = o.firstFrame - o.preRoll;
  const plumes = plumesOf(plan);
  const solids = o.solids
    .filter((s) => Object.keys(s.moves).some((path) => path.startsWith('shape.')))
    .flatMap((s) => {
      const { min, max } = shapeBounds(s.shape);
      return [...min.map((v) => Math.floor(v / h)), ...max.map((v) => Math.ceil(v / h) - 1)];
    });
  const speed = Math.max(0, ...plumes.map((p) => p.fastest));
  const usual = expectedSubsteps(speed, plan);
  const travel = Math.ceil(speed / (o.framesPerSecond * Math.max(1, usual) * o.voxelSize));
  const seldom = Math.max(EVERY, Math.ceil((o.lastFrame - begin - CLOSELY) / LATER_LOOKS));
  const frames: PredictedFrame[] = [];
  let found = { voxels: 0, window: [TILE, TILE, TILE] as [number, number, number] };
  for (let frame = begin; frame <= o.lastFrame; frame++) {
    const n = frame - begin;
    if (n % (n < CLOSELY ? EVERY : seldom) === 0 || n < EVERY || frame === o.lastFrame) {
      const census: Census = { matter: plumes.flatMap((p) => boxesOf(p, n / o.framesPerSecond, h)), motion: [], solids, travel };
      const set = chooseActive(limit, census, o.bounds.mode, Math.ceil(o.bounds.reach / h));
      const around = o.bounds.mode === 'adaptive' ? windowAround(set) : limit;
      const roomy = (a: 'nx' | 'ny' | 'nz'): number =>
        around ? Math.min(whole[a], coarser * around[a] + (o.bounds.mode === 'adaptive' ? SPARE : 0)) : TILE;
      const voxels = o.bounds.mode === 'dense' ? most : Math.min(most, Math.max(1, set.tiles.length / 3) * 512 * coarser ** 3);
      found = { voxels, window: [roomy('nx'), roomy('ny'), roomy('nz')] };
    }
    const substeps = frame === begin && !o.firstFrameSolved ? 0 : usual;
    frames.push({
      frame,
      ...found,
      memoryBytes: windowBytes(windowOf([0, 0, 0], found.window), o.matter),
      substeps,
      iterations: substeps * ITERATIONS * solves(plan),
      bytes: frame >= o.firstFrame || plan.keep.preRoll ? found.voxels * bytesOfVoxel(plan) * lessons.bytesFactor : 0,
    });
  }
  return frames;
}

/** Most active voxels that a plan is expected to have, from its settings alone; several bounds together. */
export const expectedVoxels = (plan: GasPlan): number =>
  optionsOf(plan).reduce((sum, _o, n) => sum + Math.max(...guessFrames(planOfBounds(plan, n), learn([])).map((f) => f.voxels)), 0);
