export interface Command {
  readonly id: string;
  readonly title: string;
  /** `Shift+t`, `Ctrl+k`, `g s` (one after the other), ` `; null: only in the palette. */
  readonly keys: string | null;
  readonly run: () => void;
}

const current = new Map<string, Command>();

/** What can be done now, by keys and in the palette. Views register theirs while they are shown. */
export const commands = {
  /** Returns the function that takes them back. */
  register(list: readonly Command[]): () => void {
    for (const c of list) current.set(c.id, c);
    return () => {
      for (const c of list) if (current.get(c.id) === c) current.delete(c.id);
    };
  },
  /** By their titles. */
  all: (): Command[] => [...current.values()].sort((a, b) => a.title.localeCompare(b.title)),
};
