export type Path = readonly (string | number)[];

/** `sources[0].noise.size` -> ['sources', 0, 'noise', 'size'] */
export const parsePath = (text: string): Path =>
  text
    .split(/[.[\]]+/)
    .filter(Boolean)
    .map((part) => (/^\d+$/.test(part) ? Number(part) : part));

export const valueAtPath = (value: unknown, path: Path): unknown =>
  path.reduce<unknown>((v, key) => (typeof v === 'object' && v !== null ? (v as Record<string | number, unknown>)[key] : undefined), value);

/** A copy with the value at a path replaced; what is not on the way is shared. */
export function putAtPath(value: unknown, path: Path, next: unknown): unknown {
  const [key, ...rest] = path;
  if (key === undefined) return next;
  const changed = putAtPath(valueAtPath(value, [key]), rest, next);
  if (Array.isArray(value)) return value.map((v: unknown, n) => (n === key ? changed : v));
  return { ...(value as object), [key]: changed };
}
