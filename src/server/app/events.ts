import type { ServerEvent } from '#protocol';

/** Fans events out to the open event streams. */
export class EventHub {
  readonly #listeners = new Set<(event: ServerEvent) => void>();

  emit(event: ServerEvent): void {
    for (const listener of this.#listeners) listener(event);
  }

  /** Returns the function that ends it. */
  subscribe(listener: (event: ServerEvent) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }
}
