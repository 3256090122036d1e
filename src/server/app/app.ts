import { join } from 'node:path';
import { type Config, readConfig } from '#server/config';
import { type Database, type FolderLock, lockFolder, openDatabase } from '#server/db';
import { recover } from '#server/queue';
import { Costs } from './costs';
import { loadDemo } from './demo';
import { EventHub } from './events';
import { GeometryStore } from './geometry';
import { Imports } from './imports';
import { clearLeftovers } from './leftovers';
import { reconcile } from './reconcile';
import { rekey } from './rekey';
import { Runner } from './runner';
import { ShotStore } from './shots';
import { VariantStore } from './variants';
import { DeletedShots } from './deleted-shots';
import { RunStore } from './runs';
import { FreedCaches } from './freed';

/** Everything that lives as long as the server: one of each. */
export class App {
  readonly events = new EventHub();
  readonly startedAt = Date.now();
  readonly costs: Costs;
  readonly shots: ShotStore;
  readonly variants: VariantStore;
  readonly deletedShots: DeletedShots;
  readonly runs: RunStore;
  readonly freed: FreedCaches;
  readonly runner: Runner;
  readonly geometry: GeometryStore;
  /** What was found at the start, left over from a process that was killed. */
  found: readonly string[] = [];

  constructor(
    readonly config: Config,
    readonly db: Database,
    private readonly lock: FolderLock,
  ) {
    this.freed = new FreedCaches(db, config, this.events);
    this.runs = new RunStore(db, config, this.events);
    this.costs = new Costs(db, config, this.events);
    this.shots = new ShotStore(db, this.runs, this.costs, this.events, config);
    this.variants = new VariantStore(db, this.freed, this.events);
    this.deletedShots = new DeletedShots(db, this.freed, this.events);
    this.geometry = new GeometryStore(config, this.shots, new Imports(this.events));
    this.runner = new Runner(db, config, this.runs, this.freed, this.events, this.costs);
  }

  /** Cancels what runs and waits for it; frames are kept. */
  async close(): Promise<void> {
    await this.costs.stop();
    await this.runner.stop();
    this.db.close();
    await this.lock.release();
  }
}

/** Throws `refused` when another process has the data folder open. */
export async function openApp(config: Config): Promise<App> {
  const lock = await lockFolder(config.data, config.address ?? null);
  let db: Database | null = null;
  try {
    db = await openDatabase(join(config.data, 'ruddle.db'), config.root);
    return await opened(new App(config, db, lock));
  } catch (error) {
    // Whatever failed: the next try must not find the folder in use by this very process.
    db?.close();
    await lock.release();
    throw error;
  }
}

async function opened(app: App): Promise<App> {
  const { config } = app;
  await rekey(app.db);
  const left = await clearLeftovers(app.db, config.data, await recover(app.db, Date.now()));
  app.found = [...left, ...(await reconcile(app.db, config.data))];
  for (const text of app.found) console.log(text);
  // Runs wait for the calibration: beside them it would measure nothing.
  app.runner.waitFor(
    app.costs.calibrate().catch((error: unknown) => {
      console.error('calibration:', error);
    }),
  );
  if (config.demo !== null) await loadDemo(app.shots, app.geometry, app.runner, config.demo);
  app.runner.pump();
  return app;
}

const KEY = Symbol.for('ruddle.app');
type Holder = Record<symbol, Promise<App> | undefined>;

/** The process's one application; it outlives a reload of modules in development. One that could not be opened is tried again with the next request. */
export function sharedApp(): Promise<App> {
  const holder = globalThis as unknown as Holder;
  const known = holder[KEY];
  if (known) return known;
  const opening = openApp(readConfig(process.env));
  holder[KEY] = opening;
  opening.catch(() => {
    if (holder[KEY] === opening) holder[KEY] = undefined;
  });
  return opening;
}
