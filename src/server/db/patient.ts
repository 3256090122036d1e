/** Between two tries, milliseconds. */
const AGAIN = 250;

/** Whether another program holds the database just now. */
export const isBusy = (error: unknown): boolean => {
  if (!(error instanceof Error)) return false;
  const code = 'code' in error ? String(error.code) : '';
  return code.startsWith('SQLITE_BUSY') || code.startsWith('SQLITE_LOCKED') || isBusy(error.cause);
};

/** Does it again until the database is free: for what must not be lost because a backup took a minute. Other errors are thrown at once, and after `most` this one. */
export async function patiently<T>(work: () => Promise<T>, most = 120_000): Promise<T> {
  const until = performance.now() + most;
  for (;;) {
    try {
      return await work();
    } catch (error) {
      if (!isBusy(error) || performance.now() > until) throw error;
      await new Promise((resolve) => setTimeout(resolve, AGAIN));
    }
  }
}
