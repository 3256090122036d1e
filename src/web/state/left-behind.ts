import * as z from 'zod';
import { settingsSchema } from '#core/shot';

const KEY = 'ruddle.left-behind';

const schema = z.strictObject({ variantId: z.string(), revision: z.number(), settings: settingsSchema });

/** An edit that a page that was left could not store any more. Browsers let a request outlive its page only up to 64 KiB; this has no such limit. */
export type LeftBehind = z.infer<typeof schema>;

/** Keeps it in the browser until the variant is opened again. */
export function leaveBehind(edit: LeftBehind): void {
  try {
    localStorage.setItem(KEY, JSON.stringify(edit));
  } catch {
    // A browser that keeps nothing: the request that goes out beside may still arrive.
  }
}

/** The edit of a variant that an earlier page left, once. */
export function pickUp(variantId: string): LeftBehind | null {
  try {
    const text = localStorage.getItem(KEY);
    const left = text === null ? null : schema.safeParse(JSON.parse(text));
    if (!left?.success || left.data.variantId !== variantId) return null;
    localStorage.removeItem(KEY);
    return left.data;
  } catch {
    return null;
  }
}
