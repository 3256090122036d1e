import { createHash } from 'node:crypto';
import { RuddleError } from '#core/errors';
import { packBundle, unpackBundle } from '#core/formats';
import { decodeGeometry } from '#core/mesh';
import { geometriesOfSettings, parseShotFile } from '#core/shot';
import type { GeometryInfo, ShotDto } from '#protocol';
import { geometryFolder, keepGeometry, readGeometry } from '#server/cache';
import type { Config } from '#server/config';
import { importGeometry, pngOf } from '#workers/node';
import type { ShotStore } from './shots';

/** Imported geometry: kept under its fingerprint, so that the same file is there once, however often it is imported. */
export class GeometryStore {
  readonly #folder: string;
  constructor(
    config: Config,
    private readonly shots: ShotStore,
  ) {
    this.#folder = geometryFolder(config.data);
  }

  /** Reads a file and keeps what it holds. Throws `file-invalid`. */
  async add(bytes: Uint8Array, file: string): Promise<GeometryInfo> {
    const made = await importGeometry(bytes, file);
    await keepGeometry(this.#folder, made.info.hash, made.bytes);
    return made.info;
  }

  /** Keeps geometry that Ruddle wrote. */
  async keep(hash: string, bytes: Uint8Array): Promise<void> {
    if (createHash('sha256').update(bytes).digest('hex') !== hash) {
      throw new RuddleError('file-invalid', `Geometry ${hash.slice(0, 12)} is damaged.`, { file: hash, reason: 'its fingerprint differs' });
    }
    await keepGeometry(this.#folder, hash, bytes);
  }

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
  async shotFile(shot: string): Promise<{ bytes: Uint8Array<ArrayBuffer>; zip: boolean }> {
    const file = await this.shots.file(shot);
    const text = `${JSON.stringify(file, null, 2)}\n`;
    const hashes = new Set(file.variants.flatMap((v) => geometriesOfSettings(v.settings)));
    if (hashes.size === 0) return { bytes: new TextEncoder().encode(text), zip: false };
    const geometry = new Map<string, Uint8Array<ArrayBuffer>>();
    for (const hash of hashes) geometry.set(hash, new Uint8Array(await this.read(hash)));
    return { bytes: packBundle({ shot: text, geometry }), zip: true };
  }

  /** Adds the shot of a bundle, and its geometry. */
  async addBundle(bytes: Uint8Array, name: string): Promise<ShotDto> {
    const { shot, geometry } = unpackBundle(bytes, name);
    const file = parseShotFile(shot, `${name}/shot.json`);
    for (const [hash, data] of geometry) await keepGeometry(this.#folder, hash, data);
    return await this.shots.add(file);
  }
}
