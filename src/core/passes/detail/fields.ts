import type { Contents, FlowFields } from '#core/flow';
import type { KernelTeam } from '#core/grid';
import { AMOUNT_NAMES, type CarriedAmount } from '../upscale';

/** Fields of the fine grid: those of a flow, a third field of the potential (with phi and p), and what is carried. 0: it is not there. */
export interface DetailFields extends FlowFields {
  e: number;
  density: number;
  temperature: number;
  flame: number;
  fuel: number;
  red: number;
  green: number;
  blue: number;
  across: number;
  up: number;
  along: number;
}

const FLOW = ['u', 'v', 'w', 'phi', 'a', 'b', 'c', 'r', 'z', 'p', 'q', 'e'] as const;

/** Fields that a fine grid holds in all. */
export const fieldCount = (amounts: number): number => FLOW.length + amounts;

export function allocateDetail(
  team: KernelTeam,
  capacity: number,
  amounts: readonly CarriedAmount[],
): { readonly fields: DetailFields; readonly contents: Contents<DetailFields> } {
  const names = [...FLOW, ...amounts.map((a) => a.name)];
  const fields = Object.fromEntries(
    ([...FLOW, ...AMOUNT_NAMES] as const).map((name) => [name, (names as string[]).includes(name) ? team.allocate(4 * capacity) : 0]),
  ) as unknown as DetailFields;
  return {
    fields,
    contents: {
      names,
      ambient: Object.fromEntries(amounts.map((a) => [a.name, a.nothing])),
      counted: amounts.slice(0, 1).map((a) => a.name),
      riding: amounts.slice(1).map((a) => a.name),
    },
  };
}
