import { ADVECTION, Carrying } from '#core/flow';
import { type ScalarAdvectionName } from '#core/gas';
import type { Team } from '#kernels';
import { makeGrid } from './grids';

/** A field that is carried about in a closed box n x n x 8 by a flow in its plane, and what should have become of it. */
export interface TransportCase {
  /** Stream function at corners, in box widths squared a time; the flow is its discrete curl, so that no cell's volume changes. `t`: 0 to 1. */
  readonly stream: (x: number, y: number, t: number) => number;
  readonly shape: (x: number, y: number) => number;
  /** Whether it ends where it began, at t = 1. */
  readonly returns: boolean;
}

/** Round the middle; slower and slower outside, 0 at the walls. */
const turning = (x: number, y: number): number => {
  const r2 = (x - 0.5) ** 2 + (y - 0.5) ** 2;
  // Solid body rotation up to 0.4, then a smooth end.
  const r = Math.sqrt(r2);
  if (r <= 0.4) return Math.PI * r2;
  const s = Math.min(1, (r - 0.4) / 0.1);
  return Math.PI * (0.16 + 0.8 * 0.1 * (s - s * s + (s * s * s) / 3));
};
const rolling = (x: number, y: number): number => (Math.sin(Math.PI * x) * Math.sin(Math.PI * y)) ** 2 / Math.PI;

export const TRANSPORT_CASES = {
  blob: { stream: turning, shape: (x, y) => Math.exp(-(((x - 0.5) ** 2 + (y - 0.72) ** 2) / 0.07 ** 2)), returns: true },
  /** Zalesak's disc. */
  disc: {
    stream: turning,
    shape: (x, y) => (Math.hypot(x - 0.5, y - 0.68) < 0.15 && !(Math.abs(x - 0.5) < 0.025 && y < 0.78) ? 1 : 0),
    returns: true,
  },
  /** Drawn out by a vortex, and back (LeVeque 1996). */
  deformed: {
    stream: (x, y, t) => 2 * rolling(x, y) * Math.cos(Math.PI * t),
    shape: (x, y) => (Math.hypot(x - 0.5, y - 0.75) < 0.15 ? 1 : 0),
    returns: true,
  },
  /** A sharp puff drawn out: only its mass and its bounds are known. */
  shear: { stream: (x, y) => 2 * rolling(x, y), shape: (x, y) => (Math.hypot(x - 0.5, y - 0.75) < 0.12 ? 1 : 0), returns: false },
  constant: { stream: (x, y) => 2 * rolling(x, y), shape: () => 1, returns: true },
} as const satisfies Record<string, TransportCase>;

export interface TransportResult {
  /** L1 error over the initial L1. */
  readonly error: number;
  /** Relative change of the sum. */
  readonly mass: number;
  readonly lowest: number;
  readonly highest: number;
  /** L1 change of the last step over the initial L1, and of the last two. */
  readonly step: number;
  readonly twoSteps: number;
}

/** Carries a case through t = 0 to 1 with this CFL number at its fastest. */
export function carryCase(
  team: Team,
  { stream, shape, returns }: TransportCase,
  n: number,
  cfl: number,
  scheme: ScalarAdvectionName,
): TransportResult {
  team.reset();
  const grid = makeGrid(team, [n, n, 8]);
  const level = grid.hierarchy.finest;
  const names = ['u', 'v', 'w', 'density', 'temperature', 'fuel', 'flame', 'phi', 'a', 'b', 'c', 'r', 'z', 'p', 'q'] as const;
  const none = { red: 0, green: 0, blue: 0, across: 0, up: 0, along: 0 };
  const fields = { ...none, ...(Object.fromEntries(names.map((name) => [name, grid.field()])) as Record<(typeof names)[number], number>) };
  const [u, v, d] = [fields.u, fields.v, fields.density].map((p) => team.floats(p, grid.size)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  let fastest = 0;
  const flow = (t: number): void => {
    fastest = 0;
    for (let k = 0; k < 8; k++) {
      for (let j = 0; j <= n; j++) {
        for (let i = 0; i <= n; i++) {
          const at = grid.at(i, j, k);
          const psi = stream(i / n, j / n, t);
          if (j < n) u[at] = n * (stream(i / n, (j + 1) / n, t) - psi);
          if (i < n) v[at] = -n * (stream((i + 1) / n, j / n, t) - psi);
          fastest = Math.max(fastest, Math.abs(u[at] ?? 0), Math.abs(v[at] ?? 0));
        }
      }
    }
  };
  flow(0);
  // Most cases stand still: their flow is the same at every step.
  const turns = [0.1, 0.6].some((t) => stream(0.3, 0.6, t) !== stream(0.3, 0.6, 0));
  const steps = Math.ceil((fastest * n) / cfl);
  const each = (body: (at: number, x: number, y: number) => void): void => {
    for (let k = 0; k < 8; k++)
      for (let j = 0; j < n; j++) for (let i = 0; i < n; i++) body(grid.at(i, j, k), (i + 0.5) / n, (j + 0.5) / n);
  };
  let [first, error] = [0, 0];
  each((at, x, y) => {
    d[at] = shape(x, y);
    first += d[at] ?? 0;
  });
  const whole = { voxelSize: 1, limit: { min: [0, 0, 0], max: [n, n, 8] } } as const;
  const carrying = new Carrying(team, whole, { hierarchy: grid.hierarchy, window: grid.window, limit: grid.window }, fields, level.count);
  carrying.boundsChanged();
  const context = { team, level, fields, c: n / steps, list: team.allocate(64) };
  const before: Float32Array[] = [];
  for (let s = 0; s < steps; s++) {
    if (turns) flow((s + 0.5) / steps);
    if (s >= steps - 2) before.push(d.slice());
    if (scheme === 'ppm') {
      carrying.run(context.c, [{ field: fields.density, nothing: 0 }]);
      carrying.done();
    } else ADVECTION[scheme].scalars(context, [fields.density]);
  }
  let [last, lowest, highest, step, twoSteps] = [0, Infinity, -Infinity, 0, 0];
  each((at, x, y) => {
    const now = d[at] ?? 0;
    last += now;
    lowest = Math.min(lowest, now);
    highest = Math.max(highest, now);
    error += Math.abs(now - shape(x, y));
    step += Math.abs(now - (before[1]?.[at] ?? 0));
    twoSteps += Math.abs(now - (before[0]?.[at] ?? 0));
  });
  return { error: returns ? error / first : NaN, mass: last / first - 1, lowest, highest, step: step / first, twoSteps: twoSteps / first };
}
