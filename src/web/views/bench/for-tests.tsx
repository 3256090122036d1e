import { type ReactElement, type ReactNode, useLayoutEffect, useState } from 'react';
import type { RenderResult } from 'vitest-browser-react';
import { vi } from 'vitest';
import type { DetailedPrediction } from '#core/cost';
import { type PassSettings, type GasSolve, followersOf, gasSolveOf } from '#core/shot';
import type { FrameDto, RunDto, ShotDto } from '#protocol';
import { makePrediction, makeShot } from '#testing/values';
import { useNotice, useSheet } from '#web/state';
import { show } from '#web/testing';
import { BenchContext, type BenchState } from './bench-context';
import { useSelection } from './view/selection';

interface OnBench extends Partial<Omit<BenchState, 'shown' | 'shot'>> {
  readonly shot?: ShotDto;
  readonly run?: RunDto | null;
  readonly frames?: readonly FrameDto[];
}

/** What a Bench of a shot holds, with nothing computed unless a run is given. */
function benchOf({ shot = makeShot(), run = null, frames = [], ...others }: OnBench): BenchState {
  const prediction: DetailedPrediction = { ...makePrediction(), frames: [] };
  return {
    shot,
    variant: shot.variants[0]!,
    shown: { run, frames, stored: new Set(frames.filter((f) => f.stored).map((f) => f.frame)), error: null },
    predictor: { of: () => prediction, ofPlan: () => prediction },
    predicted: { test: prediction, final: prediction },
    spent: { seconds: 0, bytes: 0, ahead: { seconds: 0, bytes: 0, runs: 0 } },
    loads: { test: null, final: null },
    findings: [],
    passFindings: [],
    passes: [],
    pass: null,
    tryThree: vi.fn(),
    makeMove: vi.fn(),
    ...others,
  };
}

/** Opens a shot's first variant on the sheet before its parts are drawn, as the Bench does. */
function OnSheet({ bench, children }: { bench: BenchState; children: ReactNode }): ReactElement | null {
  const [ready, setReady] = useState(false);
  useLayoutEffect(() => {
    useSheet.setState({ shotId: null, variantId: null });
    useSheet.getState().open(bench.shot, bench.variant);
    useSelection.setState({ selection: null });
    useNotice.setState({ notice: null });
    setReady(true);
  }, [bench]);
  return ready ? <BenchContext.Provider value={bench}>{children}</BenchContext.Provider> : null;
}

/** Shows a part of the Bench; returns what it stands on. */
export async function showOnBench(part: ReactElement, on: OnBench = {}): Promise<RenderResult & { bench: BenchState }> {
  const bench = benchOf(on);
  return Object.assign(await show(<OnSheet bench={bench}>{part}</OnSheet>), { bench });
}

/** The solve on the sheet, and the passes after it. */
export const sheet = (): GasSolve => gasSolveOf(useSheet.getState().settings);
export const passesOnSheet = (): readonly PassSettings[] => followersOf(useSheet.getState().settings);
export const notice = (): string => useNotice.getState().notice?.text ?? '';
