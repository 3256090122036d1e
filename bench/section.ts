/** One figure, with what it is asked to be. */
export interface Row {
  readonly name: string;
  readonly value: number;
  readonly unit: string;
  /** null: told only. */
  readonly limit: { readonly most?: number; readonly least?: number } | null;
  readonly note?: string;
}

export interface Bench {
  /** Kept small: fewer rounds and sizes, for trying the bench itself. */
  readonly quick: boolean;
  readonly say: (text: string) => void;
}

export interface Section {
  readonly id: string;
  readonly title: string;
  readonly run: (bench: Bench) => Promise<Row[]>;
}

export const row = (name: string, value: number, unit: string, limit: Row['limit'] = null, note?: string): Row => ({
  name,
  value,
  unit,
  limit,
  ...(note === undefined ? {} : { note }),
});

export const held = ({ value, limit }: Row): boolean =>
  Number.isFinite(value) && value <= (limit?.most ?? Infinity) && value >= (limit?.least ?? -Infinity);

/** Seconds of the quickest of some rounds: what the machine can do when it is left alone. */
export function shortest(rounds: number, body: () => void): number {
  let best = Infinity;
  for (let r = 0; r < rounds; r++) {
    const began = performance.now();
    body();
    best = Math.min(best, performance.now() - began);
  }
  return best / 1000;
}

export const middle = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1] ?? NaN;
