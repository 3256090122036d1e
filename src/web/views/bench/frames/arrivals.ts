import { useEffect, useId } from 'react';
import { create } from 'zustand';

/** A frame that a picture waits for, or cannot have. */
interface Arrival {
  readonly frame: number;
  /** null: it is on its way. */
  readonly problem: string | null;
}

/** By who waits. */
export const useArrivals = create<Readonly<Record<string, Arrival | undefined>>>(() => ({}));

/** Says that a picture waits for a frame, or why it cannot have it, for as long as that holds; null: it has its frame. */
export function useArrival(arrival: Arrival | null): void {
  const id = useId();
  const frame = arrival?.frame ?? null;
  const problem = arrival?.problem ?? null;
  useEffect(() => {
    if (frame === null) return undefined;
    useArrivals.setState({ [id]: { frame, problem } });
    return () => {
      useArrivals.setState({ [id]: undefined });
    };
  }, [id, frame, problem]);
}

const failures = new Map<string, string>();
/** Why the answer under a key failed; null: it came, or nobody asked. */
export const failureOf = (key: string): string | null => failures.get(key) ?? null;
/** To be called with the error, or with null when the answer came. */
export const noteFailure = (key: string, error: unknown): void => {
  if (error === null || (error instanceof DOMException && error.name === 'AbortError')) failures.delete(key);
  else failures.set(key, error instanceof Error ? error.message : 'it did not come.');
};
