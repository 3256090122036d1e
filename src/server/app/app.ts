import { join } from 'node:path';
import { type Config, readConfig } from '#server/config';
import { type Database, openDatabase } from '#server/db';
import { recover } from '#server/queue';
import { Costs } from './costs';
import { loadDemo } from './demo';
import { EventHub } from './events';
import { GeometryStore } from './geometry';
import { Runner } from './runner';
import { ShotStore } from './shots';
import { VariantStore } from './variants';
import { RunStore } from './runs';
import { FreedCaches } from './freed';

/** Everything that lives as long as the server: one of each. */
export class App {
  readonly events = new EventHub();
  readonly costs: Costs;
  readonly shots: ShotStore;
  readonly variants: VariantStore;
  readonly runs: RunStore;
  readonly freed: FreedCaches;
  readonly runner: Runner;
  readonly geometry: GeometryStore;

  constructor(
    readonly config: Config,
    readonly db: Database,
  ) {
    this.freed = new FreedCaches(db, config, this.events);
    this.runs = new RunStore(db, config, this.events);
    this.costs = new Costs(db, config, this.events);
    this.shots = new ShotStore(db, this.runs, this.costs, this.events);
    this.variants = new VariantStore(db, this.freed, this.events);
    this.geometry = new GeometryStore(config, this.shots);
    this.runner = new Runner(db, config, this.runs, this.freed, this.events, this.costs);
  }

  /** Cancels what runs and waits for it; frames are kept. */
  async close(): Promise<void> {
    this.costs.stop();
    await this.runner.stop();
    this.db.close();
  }
}

export async function openApp(config: Config): Promise<App> {
  const db = await openDatabase(join(config.data, 'ruddle.db'), config.root);
  const app = new App(config, db);
  await recover(db, Date.now());
  // Runs wait for the calibration: beside them it would measure nothing.
  app.runner.waitFor(
    app.costs.calibrate().catch((error: unknown) => {
      console.error('calibration:', error);
    }),
  );
  if (config.demo) await loadDemo(app.shots, app.geometry, app.runner, join(config.root, 'demo'));
  app.runner.pump();
  return app;
}

const KEY = Symbol.for('ruddle.app');
type Holder = Record<symbol, Promise<App> | undefined>;

/** The process's one application; it outlives a reload of modules in development. */
export function sharedApp(): Promise<App> {
  const holder = globalThis as unknown as Holder;
  return (holder[KEY] ??= openApp(readConfig(process.env)));
}
