import type { Clock } from '#core/grid';
import type { Team } from '#kernels';

/** A worker says that it lives at most this often, seconds. */
const TELL_EVERY = 1;

/** Tells now and then that work goes on; to be called wherever it does. */
export function pulse(clock: Clock, tell: () => void): () => void {
  let told = clock();
  return () => {
    if (clock() - told < TELL_EVERY) return;
    told = clock();
    tell();
  };
}

/** A team whose every launch is a sign of life: a frame may take hours, and its thread is taken down only when nothing is computed any more. */
export const living = (team: Team, alive: () => void): Team => ({
  ...team,
  launch: (...launch) => {
    team.launch(...launch);
    alive();
  },
});
