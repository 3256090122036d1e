import { type Box3, shapeBounds } from '#core/geometry';
import type { Vec3 } from '#core/math';
import { movedItem } from './moved';
import { followedBy } from './moves-schema';
import type { SolveSettings } from './solve';
import type { CameraSettings, ShotFields } from './shot';

/** Whether two boxes have any room in common. */
export const meets = (a: Box3, b: Box3): boolean => ([0, 1, 2] as const).every((n) => a.min[n] < b.max[n] && b.min[n] < a.max[n]);

/**
 * A limit box when none is set: around sources and solids, with room above and beside for what rises and drifts. What stands in bounds of its own is left
 * out.
 */
export function defaultLimit(settings: SolveSettings): Box3 {
  const boxes = [...settings.sources, ...settings.solids]
    .filter((s) => !s.hidden)
    .map((s) => shapeBounds(s.shape))
    .filter((box) => !settings.bounds.beside.some((b) => meets(b.limit, box)));
  if (boxes.length === 0) return { min: [-2, 0, -2], max: [2, 4, 2] };
  const at = (pick: (b: Box3) => number, f: (...v: number[]) => number): number => f(...boxes.map(pick));
  const min = [0, 1, 2].map((a) => at((b) => b.min[a as 0 | 1 | 2], Math.min)) as [number, number, number];
  const max = [0, 1, 2].map((a) => at((b) => b.max[a as 0 | 1 | 2], Math.max)) as [number, number, number];
  const size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]);
  const round = (v: number, f: (x: number) => number): number => f(v * 10) / 10;
  return {
    min: [round(min[0] - size, Math.floor), round(min[1], Math.floor), round(min[2] - size, Math.floor)],
    max: [round(max[0] + size, Math.ceil), round(max[1] + 1.5 * size, Math.ceil), round(max[2] + size, Math.ceil)],
  };
}

/** Room around an item, of its longest side. */
const ROOM = 0.15;
/** Nearest and furthest that a camera's view is taken to reach, of the way to what it looks at. */
const NEAR = 0.45;
const FAR = 1.6;
/** A moving item is looked at in so many places of the shot. */
const PLACES = 24;

const round = (v: number, up: boolean): number => Number(((up ? Math.ceil : Math.floor)(v * 100 - (up ? 1e-6 : -1e-6)) / 100).toFixed(2));

function around(points: readonly Vec3[], room: number): Box3 {
  const side = (a: 0 | 1 | 2, f: (...v: number[]) => number): number => f(...points.map((p) => p[a]));
  const margin = room * Math.max(...([0, 1, 2] as const).map((a) => side(a, Math.max) - side(a, Math.min)));
  const min = ([0, 1, 2] as const).map((a) => round(side(a, Math.min) - margin, false));
  const max = ([0, 1, 2] as const).map((a) => round(side(a, Math.max) + margin, true));
  return { min: min as unknown as Vec3, max: max as unknown as Vec3 };
}

/** Limit box around a source or a solid, wherever it goes during the shot. */
export function limitAround(shot: ShotFields, settings: SolveSettings, group: 'sources' | 'solids', index: number): Box3 | null {
  const item = settings[group][index];
  if (!item) return null;
  const { followed } = followedBy(settings);
  const { firstFrame, lastFrame, framesPerSecond } = shot;
  const points = Array.from({ length: PLACES + 1 }, (_v, n): Vec3[] => {
    const time = ((lastFrame - firstFrame) * n) / PLACES / framesPerSecond;
    const { min, max } = shapeBounds(movedItem(item, { time, firstFrame, framesPerSecond }, followed).shape);
    return [min, max];
  }).flat();
  return around(points, ROOM);
}

/**
 * Limit box around what a camera sees, from a little nearer than what it looks at to a little further. A closed floor stays where it is: what lies under it is
 * not computed.
 */
export function limitOfView(settings: SolveSettings, camera: CameraSettings, present: Box3): Box3 {
  const { position: p, target: t, fieldOfView, aspect } = camera;
  const way: Vec3 = [t[0] - p[0], t[1] - p[1], t[2] - p[2]];
  const length = Math.hypot(...way) || 1;
  const ahead = way.map((v) => v / length) as unknown as Vec3;
  const flat = Math.hypot(ahead[0], ahead[2]);
  // Looking straight up or down, "right" is x.
  const right: Vec3 = flat < 1e-6 ? [1, 0, 0] : [-ahead[2] / flat, 0, ahead[0] / flat];
  const up: Vec3 = [
    right[1] * ahead[2] - right[2] * ahead[1],
    right[2] * ahead[0] - right[0] * ahead[2],
    right[0] * ahead[1] - right[1] * ahead[0],
  ];
  const tall = Math.tan((fieldOfView * Math.PI) / 360);
  const corners = [NEAR, FAR].flatMap((part) =>
    [-1, 1].flatMap((x) =>
      [-1, 1].map((y): Vec3 => {
        const d = part * length;
        const at = (a: 0 | 1 | 2): number => p[a] + d * (ahead[a] + x * tall * aspect * right[a] + y * tall * up[a]);
        return [at(0), at(1), at(2)];
      }),
    ),
  );
  const box = around(corners, 0);
  if (settings.bounds.walls.floor !== 'closed' || present.min[1] >= box.max[1]) return box;
  return { ...box, min: [box.min[0], Math.max(box.min[1], present.min[1]), box.min[2]] };
}
