import { say } from '#web/state';

/** Says what went wrong. */
export const failed = (error: unknown): void => {
  say('error', error instanceof Error ? error.message : String(error));
};
