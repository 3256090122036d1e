import { evaluate } from './arithmetic';

/**
 * Numbers with units, as typed and as shown. Inside Ruddle everything is SI; a unit's `factors` turn what was typed into SI.
 * `offset` is subtracted after scaling down (temperatures: kelvin inside, degrees Celsius shown).
 */
export interface UnitSpec {
  /** Shown behind the number. */
  readonly symbol: string;
  /** SI value of one of the shown unit. */
  readonly shown: number;
  readonly offset: number;
  /** Other spellings that may be typed, with their SI value. */
  readonly factors: Readonly<Record<string, number>>;
}

const LENGTHS = { m: 1, cm: 0.01, mm: 0.001, km: 1000, in: 0.0254, ft: 0.3048 };
const TIMES = { s: 1, ms: 0.001, min: 60, h: 3600 };

export const UNITS = {
  none: { symbol: '', shown: 1, offset: 0, factors: { '%': 0.01 } },
  metre: { symbol: 'm', shown: 1, offset: 0, factors: LENGTHS },
  second: { symbol: 's', shown: 1, offset: 0, factors: TIMES },
  hour: { symbol: 'h', shown: 3600, offset: 0, factors: { h: 3600, min: 60, s: 1 } },
  speed: { symbol: 'm/s', shown: 1, offset: 0, factors: { 'm/s': 1, 'cm/s': 0.01, 'km/h': 1 / 3.6 } },
  acceleration: { symbol: 'm/s²', shown: 1, offset: 0, factors: { 'm/s²': 1, 'm/s2': 1 } },
  celsius: { symbol: '°C', shown: 1, offset: 273.15, factors: { '°c': 1, c: 1 } },
  kelvinDifference: { symbol: 'K', shown: 1, offset: 0, factors: { k: 1 } },
  liftPerKelvin: { symbol: 'm/s²/K', shown: 1, offset: 0, factors: {} },
  diffusivity: { symbol: 'm²/s', shown: 1, offset: 0, factors: { 'm²/s': 1, 'm2/s': 1 } },
  coolingRate: { symbol: 'K/s', shown: 1, offset: 0, factors: { 'k/s': 1 } },
  perSecond: { symbol: '1/s', shown: 1, offset: 0, factors: { '1/s': 1, '/s': 1 } },
  degree: { symbol: '°', shown: 1, offset: 0, factors: { '°': 1, deg: 1 } },
  gigabyte: { symbol: 'GB', shown: 1e9, offset: 0, factors: { gb: 1e9, mb: 1e6, tb: 1e12 } },
  frame: { symbol: 'frames', shown: 1, offset: 0, factors: { f: 1, frames: 1 } },
  rate: { symbol: 'fps', shown: 1, offset: 0, factors: { fps: 1, hz: 1 } },
  tension: { symbol: 'N/m', shown: 1, offset: 0, factors: { 'n/m': 1, 'mn/m': 0.001 } },
  densityOfMass: { symbol: 'kg/m³', shown: 1, offset: 0, factors: { 'kg/m³': 1, 'kg/m3': 1 } },
  volume: { symbol: 'm³', shown: 1, offset: 0, factors: { 'm³': 1, m3: 1, l: 0.001 } },
  volumeRate: { symbol: 'm³/s', shown: 1, offset: 0, factors: { 'm³/s': 1, 'm3/s': 1, 'l/s': 0.001 } },
  voxel: { symbol: 'voxels', shown: 1, offset: 0, factors: { vx: 1, voxels: 1 } },
} as const satisfies Record<string, UnitSpec>;

export type Unit = keyof typeof UNITS;

export type Parsed = { readonly ok: true; readonly value: number } | { readonly ok: false; readonly message: string };

/** Reads `12cm`, `0.5 s`, `1/24`, `20 °C`, `2 * 3cm + 1` as an SI value of the given kind. A bare number is in the shown unit. */
export function parseQuantity(text: string, unit: Unit): Parsed {
  const spec: UnitSpec = UNITS[unit];
  const own = spec.symbol ? { [spec.symbol.toLowerCase()]: spec.shown } : {};
  const known = [...new Set([spec.symbol, ...Object.keys(spec.factors)])].filter(Boolean).join(', ');
  const kelvin = unit === 'celsius' && /k\s*$/i.test(text);
  const result = evaluate(text, { ...spec.factors, ...own, ...(kelvin ? { k: 1 } : {}) }, spec.shown, known);
  if (!result.ok) return result;
  const si = result.bare ? result.value * spec.shown : result.value;
  return { ok: true, value: kelvin ? si : si + spec.offset };
}

/** An SI value in its shown unit, at most `digits` significant digits, without the symbol when `bare`. */
export function formatQuantity(value: number, unit: Unit, options: { digits?: number; bare?: boolean } = {}): string {
  const spec: UnitSpec = UNITS[unit];
  const shown = (value - spec.offset) / spec.shown;
  const number = trimmed(shown, options.digits ?? 4);
  return options.bare || spec.symbol === '' ? number : `${number} ${spec.symbol}`;
}

function trimmed(value: number, digits: number): string {
  if (!Number.isFinite(value)) return String(value);
  if (value === 0) return '0';
  const magnitude = Math.floor(Math.log10(Math.abs(value)));
  if (magnitude >= 7 || magnitude < -6) return value.toExponential(digits - 1).replace(/(?:\.0*|(\.\d*?)0+)?e\+?/, 'e');
  const decimals = Math.max(0, digits - 1 - magnitude);
  return String(Number(value.toFixed(Math.min(decimals, 12))));
}

/** Bytes in decimal units, as disks are sold: 1.4 GB, 320 MB. */
export function formatBytes(bytes: number): string {
  if (bytes >= 1e15) return 'more than 1000 TB';
  const scales: readonly [number, string][] = [
    [1e12, 'TB'],
    [1e9, 'GB'],
    [1e6, 'MB'],
    [1e3, 'kB'],
  ];
  for (const [size, name] of scales) {
    if (Math.abs(bytes) >= size * 0.9995) return `${trimmed(bytes / size, bytes / size >= 100 ? 3 : 2)} ${name}`;
  }
  return `${String(Math.round(bytes))} B`;
}

/** Large counts: 178 k, 1.4 M. */
export function formatCount(count: number): string {
  if (Math.abs(count) >= 999_500) return `${trimmed(count / 1e6, 3)} M`;
  if (Math.abs(count) >= 1000) return `${trimmed(count / 1e3, 3)} k`;
  return trimmed(count, 3);
}

/** Durations as a person says them: 340 ms, 4.2 s, 3 min, 1 h 20 min. */
export function formatSeconds(seconds: number): string {
  if (seconds < 0.9995) return `${trimmed(seconds * 1000, 2)} ms`;
  if (seconds < 59.95) return `${trimmed(seconds, 2)} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 60) return `${String(minutes)} min`;
  const rest = minutes % 60;
  return rest === 0 ? `${String(Math.floor(minutes / 60))} h` : `${String(Math.floor(minutes / 60))} h ${String(rest)} min`;
}

/** A range as its two ends: `13–18 s`, `50 s–2 min`; one value where both ends read alike. */
export function formatRange(low: number, high: number, show: (value: number) => string): string {
  const [from, to] = [show(low), show(high)];
  if (from === to) return to;
  const [a, b] = [from, to].map((text) => /^([-\d.]+) ?(\D*)$/.exec(text));
  return a && b && a[2] === b[2] ? `${a[1] ?? ''}–${to}` : `${from}–${to}`;
}

/** Cubic metres in litres where they are fewer than a thousand. `per`: behind the unit, `/s`. */
export const formatLitres = (cubicMetres: number, per = ''): string =>
  Math.abs(cubicMetres) < 1 ? `${trimmed(1000 * cubicMetres, 3)} l${per}` : `${trimmed(cubicMetres, 3)} m³${per}`;
