import { isAnimated } from '#core/geometry';
import type { Check, Finding, FlowCheckInput } from './finding';

/** A guide that lends nothing: it has no shape, or one that stands still and so only holds matter back. */
export const idleGuides: Check<FlowCheckInput> = {
  id: 'idle-guide',
  find: ({ settings }) =>
    settings.forces.fields.flatMap((field, n): Finding[] => {
      if (field.kind !== 'guide' || field.hidden || field.factor === 0) return [];
      const moves = field.shape !== null && (isAnimated(field.shape) || Object.keys(field.moves).some((path) => path.startsWith('shape.')));
      if (moves) return [];
      const hide = { title: `${field.name} → hidden`, edits: [{ path: `forces.fields[${String(n)}].hidden`, value: true }] };
      const meant = { title: 'Factor → 0 (holds still)', edits: [{ path: `forces.fields[${String(n)}].factor`, value: 0 }] };
      return [
        {
          id: `idle-guide:${String(n)}`,
          group: 'forces',
          severity: 'warning',
          title:
            field.shape === null
              ? `${field.name} has no shape whose motion it could lend`
              : `${field.name} stands still: it holds matter back`,
          text: 'A guide lends the motion of its own shape to what lies in it. Give it a shape that moves: by keys, an expression, or the animation of an imported mesh.',
          frames: null,
          remedies: field.shape === null ? [hide] : [hide, meant],
        },
      ];
    }),
};
