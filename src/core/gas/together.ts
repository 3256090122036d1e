import { type FrameReport, type Ledger, emptyLedger } from './report';
import type { GasEnvironment, GasFrame } from './solver';
import type { GasOptions } from './options';
import { solveGas } from './solver';

/** A frame of several bounds: one for each, and one report for all. */
export interface FrameOfAll {
  readonly report: FrameReport;
  readonly inRange: boolean;
  readonly parts: readonly GasFrame[];
}

/** Computes several bounds with the same threads and in the same memory, one after the other in each frame. */
export function* solveTogether(bounds: readonly GasOptions[], environment: GasEnvironment): Generator<FrameOfAll> {
  const runs = bounds.map((options) => solveGas(options, environment));
  for (;;) {
    const parts: GasFrame[] = [];
    for (const run of runs) {
      const next = run.next();
      if (next.done) return;
      parts.push(next.value);
    }
    yield {
      report: reportOfAll(
        parts.map((p) => p.report),
        'in turn',
      ),
      inRange: parts[0]?.inRange ?? false,
      parts,
    };
  }
}

/**
 * One report of several bounds' reports of a frame: amounts are added, of extremes the largest counts; of times the slowest bounds' where they are computed
 * side by side, all of them where one waits for the other.
 */
export function reportOfAll(parts: readonly FrameReport[], how: 'side by side' | 'in turn' = 'side by side'): FrameReport {
  const [first] = parts;
  if (!first || parts.length === 1) return first as FrameReport;
  const sum = (pick: (r: FrameReport) => number): number => parts.reduce((n, r) => n + pick(r), 0);
  const most = (pick: (r: FrameReport) => number): number => Math.max(...parts.map(pick));
  const slowest = parts.reduce((a, b) => (b.totalSeconds > a.totalSeconds ? b : a));
  const fastest = parts.reduce((a, b) => (b.substepSpeed > a.substepSpeed ? b : a));
  const boxes = parts.flatMap((r) => (r.matterBox ? [r.matterBox] : []));
  const matterTiles = sum((r) => r.matterTiles);
  const mass = emptyLedger();
  const heat = emptyLedger();
  for (const r of parts) {
    addLedger(mass, r.mass);
    if (r.heat) addLedger(heat, r.heat);
  }
  return {
    frame: first.frame,
    time: first.time,
    seconds: how === 'in turn' ? stagesOf(parts) : slowest.seconds,
    totalSeconds: how === 'in turn' ? sum((r) => r.totalSeconds) : slowest.totalSeconds,
    waitedSeconds: how === 'in turn' ? sum((r) => r.waitedSeconds ?? 0) : (slowest.waitedSeconds ?? 0),
    activeVoxels: sum((r) => r.activeVoxels),
    activeTiles: sum((r) => r.activeTiles),
    finerVoxels: sum((r) => r.finerVoxels ?? 0),
    matterTiles,
    window: first.window,
    matterBox:
      boxes.length === 0
        ? null
        : boxes.reduce((a, b) => a.map((v, n) => (n < 3 ? Math.min(v, b[n] ?? v) : Math.max(v, b[n] ?? v))) as unknown as typeof a),
    memoryBytes: sum((r) => r.memoryBytes),
    substepsWanted: most((r) => r.substepsWanted),
    substepsUsed: most((r) => r.substepsUsed),
    substepSpeed: fastest.substepSpeed,
    fastest: most((r) => r.fastest),
    cflReached: most((r) => r.cflReached),
    iterations: most((r) => r.iterations),
    residual: most((r) => r.residual),
    divergence: most((r) => r.divergence),
    converged: parts.every((r) => r.converged),
    trapped: most((r) => r.trapped),
    roughness: matterTiles > 0 ? sum((r) => r.roughness * r.matterTiles) / matterTiles : first.roughness,
    energy: {
      kinetic: sum((r) => r.energy.kinetic),
      buoyancy: sum((r) => r.energy.buoyancy),
      forces: sum((r) => r.energy.forces),
      confinement: sum((r) => r.energy.confinement),
      smoothing: sum((r) => r.energy.smoothing),
      loss: sum((r) => r.energy.loss),
    },
    mass,
    heat,
    maxima: {
      density: most((r) => r.maxima.density),
      temperature: most((r) => r.maxima.temperature),
      speed: most((r) => r.maxima.speed),
    },
    calibrationSeconds: most((r) => r.calibrationSeconds),
    parts,
  };
}

function addLedger(into: Ledger, { walls, ...amounts }: Ledger): void {
  for (const name of Object.keys(amounts) as (keyof typeof amounts)[]) into[name] += amounts[name];
  for (const wall of Object.keys(walls) as (keyof typeof walls)[]) into.walls[wall] += walls[wall];
}

/** Times by stage, of all bounds. */
const stagesOf = (parts: readonly FrameReport[]): FrameReport['seconds'] => {
  const [first] = parts;
  const stages = Object.keys(first?.seconds ?? {}) as (keyof FrameReport['seconds'])[];
  return Object.fromEntries(stages.map((stage) => [stage, parts.reduce((n, r) => n + r.seconds[stage], 0)])) as FrameReport['seconds'];
};
