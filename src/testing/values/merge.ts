export type Deep<T> = T extends readonly unknown[] ? T : T extends object ? { readonly [K in keyof T]?: Deep<T[K]> } : T;

/** `base` with parts of it replaced; arrays are replaced whole. */
export function merged<T>(base: T, changes: Deep<NoInfer<T>>): T {
  const merge = (a: unknown, b: unknown): unknown => {
    if (b === undefined) return a;
    if (typeof a !== 'object' || a === null || Array.isArray(a) || typeof b !== 'object' || b === null) return b;
    const out: Record<string, unknown> = { ...(a as Record<string, unknown>) };
    for (const [k, v] of Object.entries(b)) out[k] = merge(out[k], v);
    return out;
  };
  return merge(base, changes) as T;
}
