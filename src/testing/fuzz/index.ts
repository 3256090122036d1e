import fc from 'fast-check';

// `npm test` tries the same cases each time; `npm run fuzz` tries many times as many, other ones each time, and says the seed.
const TIMES = Number(process.env['RUDDLE_FUZZ_TIMES'] ?? 1);
const SEED = Number(process.env['RUDDLE_FUZZ_SEED'] ?? 20_261_127);

/** Parameters of a property that is tried so many times in `npm test`. */
export const fuzz = (cases: number): { numRuns: number; seed: number; endOnFailure: boolean } => ({
  numRuns: cases * TIMES,
  seed: SEED,
  // What is spoilt is small already.
  endOnFailure: true,
});

/** What nobody should put into a file, and somebody will. */
const STRANGE: readonly unknown[] = [
  null,
  true,
  '',
  'x',
  '💥\u0000',
  '9'.repeat(400),
  0,
  -0,
  -1,
  1,
  0.5,
  1e-308,
  1e9,
  -1e9,
  1e308,
  2 ** 53,
  [],
  {},
  [[]],
  [null],
  [0, 0, 0],
  [1e308, -1e308, 1e308],
  { kind: 'ball' },
  { kind: 'mesh', geometry: '../../x' },
  'expression',
  '../../../etc/passwd',
];

interface Blow {
  /** Which of what is there is gone into, level by level. */
  readonly way: readonly number[];
  readonly kind: 'replace' | 'remove' | 'add' | 'double' | 'scale';
  readonly value: unknown;
  readonly name: string;
}

const blow: fc.Arbitrary<Blow> = fc.record({
  way: fc.array(fc.nat(40), { minLength: 1, maxLength: 7 }),
  kind: fc.constantFrom('replace', 'remove', 'add', 'double', 'scale'),
  value: fc.oneof(fc.constantFrom(...STRANGE), fc.double({ noNaN: true, noDefaultInfinity: true }), fc.integer({ min: -10, max: 200 })),
  name: fc.constantFrom('__proto__', 'constructor', 'x', 'kind', 'moves', 'length', ''),
});

function strike(root: unknown, { way, kind, value, name }: Blow): unknown {
  const copy = structuredClone(root);
  let at: unknown = copy;
  for (let n = 0; n < way.length; n++) {
    if (typeof at !== 'object' || at === null) return copy;
    const keys = Object.keys(at);
    const holder = at as Record<string, unknown>;
    const key = keys[(way[n] ?? 0) % Math.max(1, keys.length)];
    const last = n === way.length - 1 || key === undefined || typeof holder[key] !== 'object' || holder[key] === null;
    if (!last) {
      at = holder[key];
      continue;
    }
    if (Array.isArray(holder) && (kind === 'add' || key === undefined)) holder.push(value);
    else if (kind === 'add' || key === undefined)
      Object.defineProperty(holder, name, { value, enumerable: true, configurable: true, writable: true });
    else if (kind === 'remove') Reflect.deleteProperty(holder, key);
    else if (kind === 'double' && Array.isArray(holder)) holder.push(structuredClone(holder[Number(key)]));
    else if (kind === 'scale' && typeof holder[key] === 'number' && typeof value === 'number') holder[key] = holder[key] * value;
    else holder[key] = value;
    return copy;
  }
  return copy;
}

/** One of some values of JSON with a few things in it changed, taken out or put in. */
export const spoiltJson = (...bases: readonly unknown[]): fc.Arbitrary<unknown> =>
  fc
    .tuple(fc.constantFrom(...bases), fc.array(blow, { minLength: 1, maxLength: 3 }))
    .map(([base, blows]) => blows.reduce<unknown>(strike, base));

type Wound =
  | { readonly kind: 'byte'; readonly at: number; readonly value: number }
  | { readonly kind: 'word'; readonly at: number; readonly value: number }
  | { readonly kind: 'cut'; readonly at: number }
  | { readonly kind: 'repeat'; readonly at: number; readonly length: number }
  | { readonly kind: 'remove'; readonly at: number; readonly length: number };

// Places count from the front and from the back: headers and directories lie there.
const place = fc.oneof(
  fc.double({ min: 0, max: 1, noNaN: true }),
  fc.nat(64).map((n) => -n - 1),
  fc.nat(256).map((n) => n + 2),
);
const length = fc.oneof(fc.nat(16), fc.nat(4000));
const wound: fc.Arbitrary<Wound> = fc.oneof(
  fc.record({ kind: fc.constant('byte' as const), at: place, value: fc.nat(255) }),
  fc.record({
    kind: fc.constant('word' as const),
    at: place,
    value: fc.constantFrom(0, 1, 0xffff_ffff, 0x7fff_ffff, 0x8000_0000, 0x7fc0_0000, 0x7f80_0000, 0x4000_0000, 65_536),
  }),
  fc.record({ kind: fc.constant('cut' as const), at: place }),
  fc.record({ kind: fc.constant('repeat' as const), at: place, length }),
  fc.record({ kind: fc.constant('remove' as const), at: place, length }),
);

/** A place as an offset: up to 1 a part of all, beyond that counted from the front, negative from the back. */
const offset = (at: number, size: number): number => {
  const n = at < 0 ? size + at : at <= 1 ? Math.floor(at * size) : at - 2;
  return Math.min(size, Math.max(0, n));
};

function joined(a: Uint8Array, b: Uint8Array): Uint8Array {
  const out = new Uint8Array(a.length + b.length);
  out.set(a);
  out.set(b, a.length);
  return out;
}

function hurt(bytes: Uint8Array, w: Wound): Uint8Array {
  const at = offset(w.at, bytes.length);
  switch (w.kind) {
    case 'byte': {
      const out = bytes.slice();
      if (at < out.length) out[at] = w.value;
      return out;
    }
    case 'word': {
      const out = bytes.slice();
      if (at + 4 <= out.length) new DataView(out.buffer).setUint32(at, w.value, true);
      return out;
    }
    case 'cut':
      return bytes.slice(0, at);
    case 'repeat':
      return joined(bytes.subarray(0, at + w.length), bytes.subarray(at));
    case 'remove':
      return joined(bytes.subarray(0, at), bytes.subarray(at + w.length));
  }
}

/** One of some files with a few wounds. */
export const spoiltBytes = <T>(...bases: readonly (readonly [T, Uint8Array])[]): fc.Arbitrary<readonly [T, Uint8Array<ArrayBuffer>]> =>
  fc
    .tuple(fc.constantFrom(...bases), fc.array(wound, { minLength: 1, maxLength: 4 }))
    .map(([[what, bytes], wounds]) => [what, new Uint8Array(wounds.reduce(hurt, bytes))] as const);

/** Runs something that may take so long, milliseconds: a file that holds a core for ever is a fault like any other. */
export function within<T>(limit: number, body: () => T): T {
  const began = performance.now();
  const result = body();
  const took = performance.now() - began;
  if (took > limit) throw new Error(`took ${took.toFixed(0)} ms; at most ${String(limit)} are allowed`);
  return result;
}
