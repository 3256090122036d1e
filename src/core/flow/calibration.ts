import type { Clock, KernelTeam } from '#core/grid';

const FLOATS = 65536;
const PASSES = 16;
/** Seconds between two readings. */
const EVERY = 1;
const REPEATS = 3;

/** How fast the machine is beside a run: the time of a kernel that always does the same. */
export class Calibration {
  readonly #memory: number;
  #last = -Infinity;
  #seconds = 0;

  constructor(
    private readonly team: KernelTeam,
    private readonly clock: Clock,
  ) {
    this.#memory = team.allocate(FLOATS * 4);
  }

  /** Times the calibration kernel every second or so, on this thread; the median of a few, for one may have been interrupted. */
  seconds(): number {
    const { clock, team } = this;
    if (clock() - this.#last > EVERY) {
      const times = Array.from({ length: REPEATS }, () => {
        const start = clock();
        calibrate(team, this.#memory, PASSES);
        return clock() - start;
      }).sort((a, b) => a - b);
      this.#seconds = times[REPEATS >> 1] ?? 0;
      this.#last = clock();
    }
    return this.#seconds;
  }
}

/** The calibration kernel; one item a launch, so that it is never split between threads. Also run once at start, to be compiled well. */
function calibrate(team: KernelTeam, memory: number, passes: number): void {
  for (let n = 0; n < passes; n++) team.launch('calibrate', 1, memory, FLOATS);
}

/** Compiles the calibration kernel well: cold it takes 2.5 times as long, and the first readings of a run would say that the machine is slow. */
export function warmCalibration(team: KernelTeam): void {
  calibrate(team, team.allocate(FLOATS * 4), 200);
}
