type Rgb = readonly [number, number, number];

/** Linear light 0 to 1 as screens take it, and back (sRGB, IEC 61966-2-1). */
const encoded = (v: number): number => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);
const linear = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);

/** `#rrggbb` of a linear colour. */
export const hexOf = (colour: Rgb): string =>
  `#${colour
    .map((v) =>
      Math.round(255 * encoded(Math.min(1, Math.max(0, v))))
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

/** The linear colour of `#rrggbb`, to three digits. */
export const colourOfHex = (hex: string): [number, number, number] =>
  [1, 3, 5].map((n) => Number(linear(Number.parseInt(hex.slice(n, n + 2), 16) / 255).toFixed(3))) as [number, number, number];
