import type * as z from 'zod';
import { RuddleError, isRuddleError } from '#core/errors';
import type { Plan } from './plan-types';
import { planSchema } from './plan-schema';
import { type Settings, settingsSchema } from './settings';
import { type ShotFields, parseWith, shotFieldsSchema } from './shot';
import { type Part, SHOT_VERSION, upgraded } from './upgrades';

/** How a part of a shot is kept: JSON with the version that wrote it. */
export const storedText = (value: ShotFields | Settings | Plan): string => JSON.stringify({ ruddle: SHOT_VERSION, ...value });

function read<T extends z.ZodType>(part: Part, schema: T, text: string, what: string): z.output<T> {
  let stored: unknown;
  try {
    stored = JSON.parse(text);
  } catch (cause) {
    throw new RuddleError('unreadable', `${what} cannot be read: it is not JSON.`, { what, reason: 'it is not JSON' }, cause);
  }
  return checked(part, schema, stored, what);
}

function checked<T extends z.ZodType>(part: Part, schema: T, stored: unknown, what: string): z.output<T> {
  const value = upgraded(part, stored, what);
  try {
    return parseWith(schema, value, what);
  } catch (cause) {
    if (!isRuddleError(cause, 'settings-invalid')) throw cause;
    const reason = cause.fields.issues.map((i) => `${i.path}: ${i.message}`).join('; ');
    throw new RuddleError('unreadable', `${what} cannot be read: ${reason}.`, { what, reason }, cause);
  }
}

// What an older version stored, as this one has it. They throw `unreadable` with the reason.
export const readStoredFields = (text: string): ShotFields => read('fields', shotFieldsSchema, text, 'The shot');
export const readStoredSettings = (text: string): Settings => read('settings', settingsSchema, text, 'The variant');
export const readStoredPlan = (text: string): Plan => read('plan', planSchema, text, 'The plan') as unknown as Plan;
/** The same of JSON that is parsed already. */
export const planOfStored = (stored: unknown): Plan => checked('plan', planSchema, stored, 'The plan') as unknown as Plan;
