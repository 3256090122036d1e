import { isRuddleError } from '#core/errors';

/** Why settings are refused; empty: they are not. Other errors are thrown on. */
export function refusalOf(of: () => unknown): string {
  try {
    of();
  } catch (error) {
    if (isRuddleError(error, 'settings-invalid')) return error.message;
    throw error;
  }
  return '';
}
