import { shapeTravel } from '#core/geometry';
import type { Moves } from '#core/moves';
import { type Group, allMoves, followedBy, mistakesOfMoves, movedItem, thicknessOf, valueAtPath } from '#core/shot';
import { type Check, type Finding, type FlowCheckInput, framesOf, framesText } from './finding';

/** A moving number that is none somewhere in the shot: the run would be refused. */
export const brokenMoves: Check<FlowCheckInput> = {
  id: 'moves',
  find({ shot, settings }) {
    return mistakesOfMoves(shot, settings).map(({ path, frame, message, range }): Finding => {
      const move = allMoves(settings).find((m) => m.text === path);
      const at = move?.path.slice(0, move.path.indexOf('moves')) ?? [];
      const key = String(move?.path[move.path.length - 1] ?? '');
      const { [key]: broken, ...others } = (valueAtPath(settings, [...at, 'moves']) ?? {}) as Moves;
      const item = path.slice(0, path.indexOf('.moves'));
      return {
        id: `moves:${path}`,
        group: (at[0] ?? 'sources') as Group,
        severity: 'warning',
        title: `${item}.${key} ${message}`,
        text: range
          ? 'A run would be refused. Keep the move within the range, hold it there, or let the number stand still.'
          : 'A run would be refused. Mend the expression, or let the number stand still.',
        frames: { from: frame, to: frame, count: 1, list: [frame] },
        remedies: [
          ...(range && broken
            ? [
                {
                  title: `${item}.${key} → held within ${String(range[0])} to ${String(range[1])}`,
                  edits: [{ path: `${item}.moves`, value: { ...others, [key]: { ...broken, limits: range } } }],
                },
              ]
            : []),
          { title: `${item}.${key} → still`, edits: [{ path: `${item}.moves`, value: others }] },
        ],
      };
    });
  },
};

/** A solid that crosses its own thickness in a substep passes through matter instead of pushing it. */
export const fastSolids: Check<FlowCheckInput> = {
  id: 'fast-solid',
  find({ shot, settings, reports }) {
    const { followed } = followedBy(settings);
    return settings.solids.flatMap((solid, n): Finding[] => {
      if (solid.hidden || Object.keys(solid.moves).length === 0) return [];
      const width = thicknessOf(solid);
      const at = (frame: number) =>
        movedItem(
          solid,
          { time: (frame - shot.firstFrame) / shot.framesPerSecond, firstFrame: shot.firstFrame, framesPerSecond: shot.framesPerSecond },
          followed,
        ).shape;
      let worst = 1;
      const through = reports.filter((r) => {
        const crossed = shapeTravel(at(r.frame - 1), at(r.frame)) / Math.max(1, r.substepsUsed) / width;
        worst = Math.max(worst, crossed);
        return r.substepsUsed > 0 && crossed > 1;
      });
      const frames = framesOf(through);
      if (!frames) return [];
      const used = Math.max(...through.map((r) => r.substepsUsed));
      const wanted = Math.min(64, Math.ceil(worst * used * 1.2));
      return [
        {
          id: `fast-solid:${String(n)}`,
          group: 'stepping',
          severity: 'warning',
          title: `${solid.name} moves ${worst.toFixed(1)} of its thicknesses in a substep`,
          text: `In ${framesText(frames)}. What it passes over in one go it does not push: matter ends up behind it. More substeps, a slower motion or a thicker solid.`,
          frames,
          remedies: [
            {
              title: `Fewest substeps ${String(settings.stepping.minSubsteps)} → ${String(wanted)}`,
              edits: [
                { path: 'stepping.minSubsteps', value: wanted },
                { path: 'stepping.maxSubsteps', value: Math.max(wanted, settings.stepping.maxSubsteps) },
              ],
            },
          ],
        },
      ];
    });
  },
};
