/** Colour ramps as stops of position and linear-in-sRGB colour; made for Ruddle from its own palette. */
export const RAMPS = {
  /** Smoke: near white, cool where thin. */
  chalk: [
    [0, '#c9cfd2'],
    [0.5, '#dedbd4'],
    [1, '#efe8dc'],
  ],
  /** Smoke that comes from a fire: soot. */
  soot: [
    [0, '#6d6762'],
    [0.4, '#514a46'],
    [1, '#3a3330'],
  ],
  /** Heat: deep red earth to pale fire. */
  ember: [
    [0, '#1b1114'],
    [0.2, '#5a1d17'],
    [0.45, '#b5452f'],
    [0.7, '#e8a04a'],
    [1, '#fff2cf'],
  ],
  /** The light of flames, brighter with what burns: the colours of glowing soot. */
  blaze: [
    [0, '#3a0b02'],
    [0.25, '#b02c05'],
    [0.5, '#f2690c'],
    [0.75, '#ffb02e'],
    [1, '#fff0bd'],
  ],
  /** Speed: dark slate through verdigris to chalk. */
  patina: [
    [0, '#16252b'],
    [0.35, '#1f6e64'],
    [0.7, '#5db8ab'],
    [1, '#f2efe3'],
  ],
  /** Red slip: wet clay in shadow, to the pale red of its foam. */
  slip: [
    [0, '#6e2a1e'],
    [0.5, '#a8452f'],
    [0.85, '#c4674a'],
    [1, '#e3a78a'],
  ],
  /** Differences: less on the left, more on the right, nothing in between. */
  twin: [
    [0, '#7fd4c8'],
    [0.3, '#2c6f68'],
    [0.5, '#10191b'],
    [0.7, '#8f3a28'],
    [1, '#f2a48d'],
  ],
} as const satisfies Record<string, readonly (readonly [number, string])[]>;

export type RampName = keyof typeof RAMPS;

/** A ramp as RGBA bytes. */
export function rampBytes(name: RampName, count: number): Uint8Array<ArrayBuffer> {
  const stops: readonly (readonly [number, string])[] = RAMPS[name];
  const rgb = (hex: string): number[] => [1, 3, 5].map((n) => Number.parseInt(hex.slice(n, n + 2), 16));
  const out = new Uint8Array(count * 4);
  for (let n = 0; n < count; n++) {
    const t = n / (count - 1);
    let s = 0;
    while (s < stops.length - 2 && t > (stops[s + 1]?.[0] ?? 1)) s++;
    const [p0, c0] = stops[s] ?? [0, '#000000'];
    const [p1, c1] = stops[s + 1] ?? [1, '#ffffff'];
    const f = Math.min(1, Math.max(0, (t - p0) / (p1 - p0)));
    const [a, b] = [rgb(c0), rgb(c1)];
    for (let c = 0; c < 3; c++) out[4 * n + c] = Math.round((a[c] ?? 0) + ((b[c] ?? 0) - (a[c] ?? 0)) * f);
    out[4 * n + 3] = 255;
  }
  return out;
}
