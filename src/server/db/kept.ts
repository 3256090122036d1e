import { type RuddleError, isRuddleError } from '#core/errors';
import { type AnyPlan, readAnyStoredPlan } from '#core/passes';
import { SHOT_VERSION, type Settings, type ShotFields, readStoredFields, readStoredSettings, storedText } from '#core/shot';

export type Keepable = ShotFields | Settings | AnyPlan;

const READERS = { fields: readStoredFields, settings: readStoredSettings, plan: readAnyStoredPlan } as const;

/**
 * A part of a shot as its row has it. It is read, and brought up to this version, when it is first asked for: a list of shots reads no plan, and a row that
 * cannot be read spoils nothing but itself.
 */
export class Kept<T extends Keepable> {
  #read: { readonly value: T } | { readonly error: RuddleError<'unreadable'> } | null = null;

  constructor(
    /** As it is stored. */
    readonly text: string,
    private readonly part: keyof typeof READERS,
  ) {}

  #result(): { readonly value: T } | { readonly error: RuddleError<'unreadable'> } {
    if (this.#read) return this.#read;
    try {
      this.#read = { value: READERS[this.part](this.text) as T };
    } catch (error) {
      if (!isRuddleError(error, 'unreadable')) throw error;
      this.#read = { error };
    }
    return this.#read;
  }

  /** Throws `unreadable`. */
  get value(): T {
    const result = this.#result();
    if ('error' in result) throw result.error;
    return result.value;
  }

  /** Why it cannot be read; null when it can. */
  get problem(): string | null {
    const result = this.#result();
    return 'error' in result ? result.error.fields.reason : null;
  }
}

export const keptFields = (value: ShotFields): Kept<ShotFields> => new Kept(storedText(value), 'fields');
export const keptSettings = (value: Settings): Kept<Settings> => new Kept(storedText(value), 'settings');
/** Of any kind. */
export const keptPlan = <P extends AnyPlan>(value: P): Kept<P> => new Kept<P>(JSON.stringify({ ruddle: SHOT_VERSION, ...value }), 'plan');
