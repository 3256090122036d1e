import { createHash } from 'node:crypto';
import { rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { RuddleError } from '#core/errors';
import { decodeGeometry } from '#core/mesh';
import { geometriesOfSettings, parseShotFile, solveOf } from '#core/shot';
import type { GeometryInfo, ShotDto } from '#protocol';
import {
  type Incoming,
  geometryFolder,
  geometryPath,
  keepGeometry,
  keepGeometryFile,
  readGeometry,
  receive,
  sendFile,
  type Drained,
  withWorkspace,
} from '#server/cache';
import type { Config } from '#server/config';
import { pngOf } from '#workers/node';
import type { ImportTask, Imports } from './imports';
import type { ShotStore } from './shots';

/** Largest file that is taken in, bytes. */
const MOST_UPLOAD = 600e6;

/** A file that can be sent. */
export interface Download {
  readonly bytes: number;
  readonly body: ReadableStream<Uint8Array> | string;
  readonly zip: boolean;
}

/** Imported geometry: kept under its fingerprint, so that the same file is there once, however often it is imported. */
export class GeometryStore {
  readonly #folder: string;
  constructor(
    private readonly config: Config,
    private readonly shots: ShotStore,
    private readonly imports: Imports,
  ) {
    this.#folder = geometryFolder(config.data);
  }

  /** Reads a file as it arrives and keeps what it holds. Throws `file-invalid`. */
  async add(body: Incoming, file: string, task: ImportTask): Promise<GeometryInfo> {
    return await withWorkspace(this.config.data, async (folder) => {
      const [input, output] = [join(folder, 'input'), join(folder, 'output')];
      await receive(body, input, MOST_UPLOAD);
      const info = await this.imports.run({ kind: 'geometry', input, file, output }, task);
      await keepGeometryFile(this.#folder, info.hash, output);
      return info;
    });
  }

  /** Keeps geometry that Ruddle wrote. */
  async keep(hash: string, bytes: Uint8Array): Promise<void> {
    if (createHash('sha256').update(bytes).digest('hex') !== hash) {
      throw new RuddleError('file-invalid', `Geometry ${hash.slice(0, 12)} is damaged.`, { file: hash, reason: 'its fingerprint differs' });
    }
    await keepGeometry(this.#folder, hash, bytes);
  }

  /** Where geometry lies. Throws `not-found`. */
  read(hash: string): Promise<Buffer> {
    return readGeometry(this.#folder, hash);
  }

  /** A kept picture, as PNG. Throws `not-found`. */
  async picture(hash: string): Promise<Uint8Array<ArrayBuffer>> {
    const stored = decodeGeometry(await this.read(hash), hash);
    if (stored.kind === 'picture') return await pngOf(stored.picture);
    throw new RuddleError('not-found', 'What is kept there is no picture.', { what: hash });
  }

  /** A shot as a file: JSON, or a bundle when it has imported geometry. */
  async shotFile(shot: string, task: ImportTask, drained: Drained): Promise<Download> {
    const file = await this.shots.file(shot);
    const text = `${JSON.stringify(file, null, 2)}\n`;
    const hashes = new Set(file.variants.flatMap((v) => geometriesOfSettings(solveOf(v.settings))));
    if (hashes.size === 0) return { bytes: Buffer.byteLength(text), body: text, zip: false };
    // Asked for first: a missing one is said by its name.
    for (const hash of hashes) await this.read(hash);
    const geometry = Object.fromEntries([...hashes].map((hash) => [hash, geometryPath(this.#folder, hash)]));
    return await withWorkspace(this.config.data, async (folder) => {
      const output = join(folder, 'bundle.zip');
      const { bytes } = await this.imports.run({ kind: 'pack', shot: text, geometry, output }, task);
      const kept = `${folder}.zip`;
      await rename(output, kept);
      return { bytes, zip: true, body: sendFile(kept, drained, () => void rm(kept, { force: true })) };
    });
  }

  /** Adds the shot of a bundle, and its geometry. */
  async addBundle(body: Incoming, name: string, task: ImportTask): Promise<ShotDto> {
    return await withWorkspace(this.config.data, async (folder) => {
      const input = join(folder, 'input');
      await receive(body, input, MOST_UPLOAD);
      const { shot, hashes } = await this.imports.run({ kind: 'unpack', input, file: name, folder }, task);
      const file = parseShotFile(shot, `${name}/shot.json`);
      for (const hash of hashes) await keepGeometryFile(this.#folder, hash, join(folder, hash));
      return await this.shots.add(file);
    });
  }
}
