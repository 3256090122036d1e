/** The frames that both hold, thinned evenly. */
export function sharedFrames(first: ReadonlySet<number>, second: ReadonlySet<number>, most: number): number[] {
  const both = [...first].filter((f) => second.has(f)).sort((a, b) => a - b);
  if (both.length <= most) return both;
  const at = Array.from({ length: most }, (_v, n) => both[Math.round((n * (both.length - 1)) / (most - 1))] ?? 0);
  return [...new Set(at)];
}
