import { UsageError } from './exit';

/** `1-48`: first and last frame; null: none is given. */
export function framesOf(text: string | undefined): readonly [first: number, last: number] | null {
  if (text === undefined) return null;
  const found = /^(-?\d+)-(-?\d+)$/.exec(text);
  if (!found) throw new UsageError(`--frames is ${text}; write it as 1-48.`);
  return [Number(found[1]), Number(found[2])];
}
