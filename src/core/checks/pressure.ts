import { type Check, type FlowCheckInput, framesOf, framesText } from './finding';

/** A pressure solve stopped short: what is left of the divergence makes matter appear and vanish. */
export const pressure: Check<FlowCheckInput> = {
  id: 'pressure',
  find({ settings, plan, reports }) {
    const short = reports.filter((r) => !r.converged);
    const frames = framesOf(short);
    if (!frames) return [];
    const { tolerance, iterations } = plan.options.stepping;
    const residual = Math.max(...short.map((r) => r.residual));
    const divergence = Math.max(...short.map((r) => r.divergence));
    const limited = short.some((r) => r.iterations >= iterations * Math.max(1, r.substepsUsed) * 0.99);
    const more = Math.min(1000, settings.stepping.iterations * 2);
    const looser = Number(Math.min(0.1, residual * 1.5).toPrecision(2));
    return [
      {
        id: 'pressure',
        group: 'stepping',
        severity: 'warning',
        title: `The pressure was not solved to its tolerance (${residual.toExponential(1)} of ${tolerance.toExponential(0)})`,
        text: `In ${framesText(frames)}; largest divergence left: ${divergence.toExponential(1)} a substep. ${
          limited
            ? 'The iterations ran out: allow more, or take shorter substeps.'
            : 'Float rounding allows no better at this size: a smaller tolerance gains nothing. Loosen it, or take shorter substeps.'
        }`,
        frames,
        remedies: limited
          ? [
              {
                title: `Most iterations ${String(settings.stepping.iterations)} → ${String(more)}`,
                edits: [{ path: 'stepping.iterations', value: more }],
              },
            ]
          : [
              {
                title: `Pressure tolerance ${String(settings.stepping.tolerance)} → ${String(looser)}`,
                edits: [{ path: 'stepping.tolerance', value: looser }],
              },
            ],
      },
    ];
  },
};
