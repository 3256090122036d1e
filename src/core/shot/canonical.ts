import { pathText } from './shot';

/** JSON with sorted keys and no spaces: the same value always gives the same text. */
export function canonicalJson(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonicalJson).join(',')}]`;
  if (typeof value === 'object' && value !== null) {
    const entries = Object.entries(value)
      .filter(([, v]) => v !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0));
    return `{${entries.map(([k, v]) => `${JSON.stringify(k)}:${canonicalJson(v)}`).join(',')}}`;
  }
  // -0 and 0 compute alike.
  return JSON.stringify(value === 0 ? 0 : value);
}

export interface Difference {
  readonly path: string;
  /** Name of the pass that it is of, when it is not of the solve. */
  readonly pass?: string;
  readonly from: unknown;
  readonly to: unknown;
}

/** Places where two values differ, leaf by leaf. */
export function differences(from: unknown, to: unknown, path: readonly PropertyKey[] = []): Difference[] {
  if (canonicalJson(from) === canonicalJson(to)) return [];
  const isTree = (v: unknown): v is Record<string, unknown> => typeof v === 'object' && v !== null;
  if (!isTree(from) || !isTree(to) || isTuple(from) || isTuple(to)) return [{ path: pathText(path), from, to }];
  if (isListed(from) && isListed(to)) return differencesOfItems(from, to, path);
  const keys = [...new Set([...Object.keys(from), ...Object.keys(to)])];
  return keys.flatMap((key) => {
    const step = Array.isArray(from) || Array.isArray(to) ? Number(key) : key;
    return differences(from[key] ?? null, to[key] ?? null, [...path, step]);
  });
}

interface Listed {
  readonly id: string;
}
const isListed = (v: unknown): v is readonly Listed[] =>
  Array.isArray(v) &&
  v.length > 0 &&
  v.every((item: unknown) => typeof item === 'object' && item !== null && 'id' in item && typeof item.id === 'string');

/** Of lists whose items have an id: item by item, wherever each stands; another order is one difference. */
function differencesOfItems(from: readonly Listed[], to: readonly Listed[], path: readonly PropertyKey[]): Difference[] {
  const placeIn = (list: readonly Listed[], id: string): number => list.findIndex((item) => item.id === id);
  const order = (list: readonly Listed[], other: readonly Listed[]): string =>
    list
      .map((item) => item.id)
      .filter((id) => placeIn(other, id) >= 0)
      .join(', ');
  const [before, after] = [order(from, to), order(to, from)];
  return [
    ...(before === after ? [] : [{ path: pathText(path), from: before, to: after }]),
    ...from.flatMap((item, n) => (placeIn(to, item.id) < 0 ? [{ path: pathText([...path, n]), from: item, to: null }] : [])),
    ...to.flatMap((item, n) => differences(from[placeIn(from, item.id)] ?? null, item, [...path, n])),
  ];
}

/** Vectors are one value to a person. */
const isTuple = (v: unknown): boolean => Array.isArray(v) && v.length === 3 && v.every((n) => typeof n === 'number');
