import type { FrameReport, Ledger } from '#core/gas';
import { type Check, type Finding, type Remedy, framesOf, framesText } from './finding';

/** Of all that has come by then: what advection itself may have made or lost, added up. */
const ALLOWED = 0.02;
/** Frames by which less than this part of it has come say little: a few voxels at the source rule them. */
const ENOUGH = 0.25;

/** Of what sources and fire brought and took, whichever way. */
const came = (l: Ledger): number => Math.abs(l.sources) + Math.abs(l.burning) + Math.abs(l.expansion ?? 0);

interface Drift {
  /** Largest running sum, as a part of what had come by then. */
  readonly share: number;
  readonly off: readonly FrameReport[];
}

/** A scheme's numerical change adds up: a hundredth of a per cent a frame is nothing, ten per cent after a hundred frames is seen. */
function driftOf(reports: readonly FrameReport[], ledgerOf: (r: FrameReport) => Ledger | undefined): Drift {
  const ledgers = reports.map(ledgerOf);
  const first = ledgers[0];
  let all = Math.abs(first?.start ?? 0);
  for (const l of ledgers) all += l ? came(l) : 0;
  let [brought, change, share] = [Math.abs(first?.start ?? 0), 0, 0];
  const off: FrameReport[] = [];
  reports.forEach((r, n) => {
    const l = ledgers[n];
    if (!l) return;
    brought += came(l);
    change += l.advection;
    const now = change / brought;
    if (brought < ENOUGH * all || !(Math.abs(now) > ALLOWED)) return;
    off.push(r);
    if (Math.abs(now) > Math.abs(share)) share = now;
  });
  return { share, off };
}

/** Advection itself makes or loses matter and heat: what the grid did, not the shot. */
export const numericalMass: Check = {
  id: 'numerical-mass',
  find({ settings, reports }) {
    const { scalarAdvection, keepsMass } = settings.matter;
    const remedies: Remedy[] = [];
    if (scalarAdvection !== 'ppm') {
      remedies.push({
        title: 'Advection of density → Conservative (PPM)',
        edits: [{ path: 'matter.scalarAdvection', value: 'ppm' }],
      });
    }
    const drifts = [
      ['matter', driftOf(reports, (r) => r.mass)],
      ['heat', driftOf(reports, (r) => r.heat)],
    ] as const;
    return drifts.flatMap(([what, { share, off }]): Finding[] => {
      const frames = framesOf(off);
      if (!frames) return [];
      const conserve: Remedy = { title: 'Conserve mass off → on', edits: [{ path: 'matter.keepsMass', value: true }] };
      return [
        {
          id: what === 'heat' ? 'numerical-heat' : 'numerical-mass',
          group: 'matter',
          severity: 'warning',
          title: `Advection ${share > 0 ? 'made' : 'lost'} ${Math.abs(100 * share).toFixed(1)} % of the ${what}`,
          text: `In ${framesText(frames)}: added up, against all that sources and fire brought. It shows as smoke that swells or thins${what === 'heat' ? ', and rises too fast or too slowly' : ''}. Shorter substeps make it worse; only a conservative scheme keeps it.`,
          frames,
          remedies: what === 'matter' && scalarAdvection !== 'ppm' && !keepsMass ? [...remedies, conserve] : remedies,
        },
      ];
    });
  },
};
