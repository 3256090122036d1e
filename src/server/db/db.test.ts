import { spawn } from 'node:child_process';
import { mkdtempSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { createClient } from '@libsql/client';
import { eq, sql } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { makeShot } from '#testing/values';
import { type Database, keptFields, keptSettings, lockFolder, openDatabase, readDatabase, tables } from '.';

let folder = '';
const opened: Database[] = [];
const file = (): string => join(folder, 'ruddle.db');
const open = async (): Promise<Database> => {
  const db = await openDatabase(file(), process.cwd());
  opened.push(db);
  return db;
};
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-db-'));
});
afterEach(() => {
  for (const db of opened.splice(0)) db.close();
  rmSync(folder, { recursive: true, force: true });
});

const shot = makeShot();
async function withShot(db: Database): Promise<void> {
  const times = { createdAt: 0, updatedAt: 0 };
  await db.insert(tables.shots).values({ id: 's', slug: 's', fields: keptFields(shot.fields), ...times });
  await db
    .insert(tables.variants)
    .values({ id: 'v', shotId: 's', name: 'One', settings: keptSettings(shot.variants[0]!.settings), ...times });
}

describe('the database', () => {
  it('is made, and what is in it is there when it is opened again', async () => {
    const db = await open();
    await withShot(db);
    db.close();
    const again = await open();
    const [row] = await again.select().from(tables.shots);
    expect(row!.fields.value).toEqual(shot.fields);
    expect((await again.select().from(tables.variants))[0]!.settings.value).toEqual(shot.variants[0]!.settings);
  });

  it('what belongs to a shot goes with it, and nothing can belong to none', async () => {
    const db = await open();
    await withShot(db);
    await db.delete(tables.shots).where(eq(tables.shots.id, 's'));
    expect(await db.select().from(tables.variants)).toEqual([]);
    await expect(
      db
        .insert(tables.variants)
        .values({ id: 'w', shotId: 'gone', name: 'x', settings: keptSettings(shot.variants[0]!.settings), createdAt: 0 }),
    ).rejects.toThrow();
  });

  it('changes of a batch are all made or none', async () => {
    const db = await open();
    await withShot(db);
    await expect(
      db.batch([
        db.update(tables.shots).set({ slug: 'other' }).where(eq(tables.shots.id, 's')),
        db.insert(tables.shots).values({ id: 's', slug: 'x', fields: keptFields(shot.fields), createdAt: 0, updatedAt: 0 }),
      ]),
    ).rejects.toThrow();
    expect((await db.select().from(tables.shots))[0]!.slug).toBe('s');
  });

  it('is read by a second connection that cannot write', async () => {
    const db = await open();
    await withShot(db);
    const reader = await readDatabase(file());
    opened.push(reader);
    expect(await reader.select().from(tables.shots)).toHaveLength(1);
    await expect(reader.update(tables.shots).set({ slug: 'y' })).rejects.toThrow();
  });

  it('has its settings however many operations meet', async () => {
    const db = await open();
    const on = await Promise.all(Array.from({ length: 8 }, async () => await db.run(sql`pragma foreign_keys`)));
    expect(on.map((r) => r.rows[0]!['foreign_keys'])).toEqual(Array<number>(8).fill(1));
  });

  it('that another program holds is waited for without holding up anything else, and written to as soon as it is free', async () => {
    const db = await open();
    await withShot(db);
    // Several times: what a refused write leaves behind must not stand in the way of the next one.
    for (const slug of ['one', 'two', 'three', 'four']) {
      const holder = createClient({ url: pathToFileURL(file()).href });
      const held = await holder.transaction('write');
      const writes = [
        db.update(tables.shots).set({ slug }).where(eq(tables.shots.id, 's')),
        db.batch([db.update(tables.shots).set({ updatedAt: 7 }), db.update(tables.variants).set({ name: slug })]),
      ];
      const written = Promise.all(writes);
      // A thread that waited for the file would run none of these.
      let turns = 0;
      const timer = setInterval(() => turns++, 20);
      await new Promise((resolve) => setTimeout(resolve, 600));
      clearInterval(timer);
      expect(turns).toBeGreaterThan(5);
      expect(await db.select({ slug: tables.shots.slug }).from(tables.shots)).not.toEqual([{ slug }]);
      await held.rollback();
      holder.close();
      await written;
      expect((await db.select().from(tables.shots))[0]).toMatchObject({ slug, updatedAt: 7 });
      expect((await db.run(sql`pragma foreign_keys`)).rows[0]!['foreign_keys']).toBe(1);
    }
  });

  it('that stays held is said to be: nothing of it is written later', async () => {
    const db = await open();
    await withShot(db);
    const holder = createClient({ url: pathToFileURL(file()).href });
    const held = await holder.transaction('write');
    await expect(db.update(tables.shots).set({ slug: 'late' })).rejects.toThrow();
    await held.rollback();
    holder.close();
    expect((await db.select().from(tables.shots))[0]!.slug).toBe('s');
  });

  it('says that its file is gone, or is another one', async () => {
    const db = await open();
    await db.present();
    renameSync(file(), `${file()}.away`);
    await expect(db.present()).rejects.toMatchObject({ tag: 'storage' });
    writeFileSync(file(), '');
    await expect(db.present()).rejects.toMatchObject({ tag: 'storage', message: expect.stringContaining('put the file back') as string });
    rmSync(file());
    renameSync(`${file()}.away`, file());
    await db.present();
  });

  it('a row that cannot be read is one problem of its own; figures that cannot be read are none', async () => {
    const db = await open();
    await withShot(db);
    await db.run(sql`update shots set fields = '{"name":'`);
    const [row] = await db.select().from(tables.shots);
    expect(row!.fields.problem).toMatch(/./);
    expect(() => row!.fields.value).toThrow();
    expect((await db.select().from(tables.variants))[0]!.settings.problem).toBeNull();
    // As it is, so that it can be given away.
    expect(row!.fields.text).toBe('{"name":');
  });
});

describe('a data folder', () => {
  it('has one owner; the second is told where the first one answers', async () => {
    const lock = await lockFolder(folder, 'http://127.0.0.1:4821');
    await expect(lockFolder(folder, null)).rejects.toThrow('already open at http://127.0.0.1:4821');
    await lock.release();
    const next = await lockFolder(folder, null);
    await expect(lockFolder(folder, null)).rejects.toThrow(`in process ${String(process.pid)}`);
    await next.release();
  });

  it('is free the moment its owner dies, however it dies', async () => {
    const code = `
      import { createClient } from '@libsql/client';
      const client = createClient({ url: ${JSON.stringify(`file:${join(folder, 'lock.db')}`)} });
      await client.execute('PRAGMA locking_mode = EXCLUSIVE');
      await client.executeMultiple('BEGIN EXCLUSIVE; CREATE TABLE IF NOT EXISTS lock (id INTEGER); COMMIT;');
      console.log('held');
      setInterval(() => undefined, 1000);`;
    const owner = spawn(process.execPath, ['--input-type=module', '-e', code], { stdio: ['ignore', 'pipe', 'inherit'] });
    await new Promise((resolve) => owner.stdout.once('data', resolve));
    await expect(lockFolder(folder, null)).rejects.toMatchObject({ tag: 'refused' });
    const died = new Promise((resolve) => owner.once('exit', resolve));
    owner.kill('SIGKILL');
    await died;
    await (await lockFolder(folder, null)).release();
  });
});
