import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type App, openApp } from '#server/app';
import type { Config } from '#server/config';

export const configFor = (folder: string, over: Partial<Config> = {}): Config => ({
  root: process.cwd(),
  data: folder,
  threads: 1,
  memoryBytes: 16e9,
  keepBytes: 0,
  demo: null,
  calibrate: false,
  version: 'test',
  ...over,
});

/** The application with a data folder of its own. */
export interface OpenFolder {
  readonly folder: string;
  app: App;
  /** Ends it and opens the same folder again. */
  readonly again: (over?: Partial<Config>) => Promise<App>;
  readonly close: () => Promise<void>;
}

/** `still`: its queue never claims anything, so that nothing is computed. */
export async function inFolder({ still = false, ...over }: Partial<Config> & { readonly still?: boolean } = {}): Promise<OpenFolder> {
  const folder = mkdtempSync(join(tmpdir(), 'ruddle-app-'));
  const open = async (more: Partial<Config> = {}): Promise<App> => {
    const app = await openApp(configFor(folder, { ...over, ...more }));
    if (still) await app.runner.stop();
    return app;
  };
  const opened: OpenFolder = {
    folder,
    app: await open(),
    again: async (more) => {
      await opened.app.close();
      opened.app = await open(more);
      return opened.app;
    },
    close: async () => {
      await opened.app.close();
      rmSync(folder, { recursive: true, force: true });
    },
  };
  return opened;
}
