import { type Group, type ShotFields, type SolveSettings, isLiquid } from '#core/shot';
import { gasKeyValue } from '../gas/key-values';
import { liquidKeyValue } from '../liquid/key-values';

/** The one value of a group that its tile shows. */
export const keyValue = (group: Group, solve: SolveSettings, fields: ShotFields): string =>
  isLiquid(solve) ? liquidKeyValue(group, solve, fields) : gasKeyValue(group, solve, fields);
