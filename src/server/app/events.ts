import type { ServerEvent } from '#protocol';

/** Fans events out to the open event streams. */
export class EventHub {
  readonly #listeners = new Set<(event: ServerEvent) => void>();

  /** A listener that throws is its own affair: whoever tells of an event (a run, above all) goes on, and the others hear it. */
  emit(event: ServerEvent): void {
    for (const listener of this.#listeners) {
      try {
        listener(event);
      } catch (error) {
        console.error('a listener of events:', error);
      }
    }
  }

  /** Returns the function that ends it. */
  subscribe(listener: (event: ServerEvent) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }
}
