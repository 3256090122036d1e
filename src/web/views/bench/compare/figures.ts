import { type SolveKind } from '#core/shot';
import { GAS_FIGURES, type Figure } from '../gas/compare-figures';
import { LIQUID_FIGURES } from '../liquid/figures';

/** Numbers that two runs of a kind are compared by. */
export const figuresOf = (kind: SolveKind): readonly Figure[] => (kind === 'liquid' ? LIQUID_FIGURES : GAS_FIGURES) as readonly Figure[];
