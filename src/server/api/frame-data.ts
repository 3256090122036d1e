import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { inflateSync } from 'node:zlib';
import { RuddleError } from '#core/errors';
import { KEPT_CHANNELS } from '#core/look';
import { decodePreview } from '#core/formats';
import { type Drained, type WrittenFile, frameFileName, lookAtFile, previewFileName, readBytes, sendFile } from '#server/cache';
import type { App } from '#server/app';

/** Channels that are no voxels: a pass's particles, and its pictures (which lie under the frame's own name). */
const PICTURE = 'picture';
/** The frame's own file, as it lies on the disk: .vdb or .ply. */
const FILE = 'file';
const NO_VOXELS = new Set(['points', 'mesh', 'outside', PICTURE, FILE]);
const KNOWN: readonly string[] = [...KEPT_CHANNELS, 'points', 'mesh', 'outside', PICTURE, FILE];

/** Larger files are sent as they are read, bytes. */
const AT_ONCE = 1024 * 1024;

/** A frame's channel as it is looked at: 8-bit voxels, points, or a picture; or its own file. The address names run and frame, whose bytes never change: it may be kept for ever. */
export async function frameData(
  app: App,
  runId: string,
  frameText: string,
  channel: string,
  boundsText: string | null,
  request: Request,
  drained: Drained,
): Promise<Response> {
  const frame = Number(frameText);
  const bounds = Number(boundsText ?? 0);
  if (!Number.isInteger(frame) || !KNOWN.includes(channel) || !Number.isInteger(bounds) || bounds < 0) {
    throw new RuddleError('not-found', 'There is no such frame or channel.', { what: `${frameText}/${channel}` });
  }
  const stored = await app.runs.frame(runId, frame, bounds);
  const picture = channel === PICTURE;
  const whole = picture ? 'png' : channel === FILE ? stored.extension : null;
  const name = whole === null ? previewFileName(stored.pass, frame, channel) : frameFileName(stored.pass, frame, whole);
  const written = stored.file(name);
  const etag = `"${written?.checksum ?? `${runId}-${frameText}`}-${channel}-${String(bounds)}"`;
  const headers = {
    'content-type': picture ? 'image/png' : 'application/octet-stream',
    'cache-control': 'private, max-age=31536000, immutable',
    etag,
    ...(whole === null ? { 'content-encoding': 'deflate' } : {}),
  };
  if (request.headers.get('if-none-match') === etag) return new Response(null, { status: 304, headers });
  if (!written) return new Response(await ofOlderVersion(stored.folder, name, channel, frame), { headers });
  const found = await lookAtFile(stored.folder, written);
  if (found === null) {
    const { size: length, body } = await bodyOf(join(stored.folder, name), written.bytes, drained);
    return new Response(body, { headers: { ...headers, 'content-length': String(length) } });
  }
  if (found === 'unreadable')
    throw new RuddleError('unreadable', `The ${channel} of frame ${String(frame)} cannot be read now. Look at the disk, then try again.`, {
      what: name,
      reason: 'the system refuses',
    });
  await app.runs.foundDamage(runId, frame, found);
  if (found === 'missing') throw notThere(channel, frame);
  const reason = (await hasSize(stored.folder, written)) ?? 'its checksum differs';
  throw new RuddleError('file-invalid', `The ${channel} of frame ${String(frame)} is damaged on the disk: ${reason}.`, {
    file: name,
    reason,
  });
}

const notThere = (channel: string, frame: number, cause?: unknown): RuddleError<'not-found'> =>
  new RuddleError(
    'not-found',
    `The cache has no ${channel} of frame ${String(frame)}; it was not kept, or removed by hand.`,
    { what: channel },
    cause,
  );

/** What a file's size says of its damage; null: nothing. */
async function hasSize(folder: string, { file, bytes }: WrittenFile): Promise<string | null> {
  const size = (await stat(join(folder, file)).catch(() => null))?.size ?? 0;
  return size === bytes ? null : `it has ${String(size)} of ${String(bytes)} bytes`;
}

/** Small files at once; larger ones as fast as they are taken. */
async function bodyOf(
  path: string,
  bytes: number,
  drained: Drained,
): Promise<{ readonly size: number; readonly body: Uint8Array<ArrayBuffer> | ReadableStream<Uint8Array<ArrayBuffer>> }> {
  if (bytes > AT_ONCE) return { size: bytes, body: sendFile(path, drained) };
  const body = new Uint8Array(await readBytes(path));
  return { size: body.length, body };
}

/** Of an older version's files no checksum is known: they must at least be a preview. */
async function ofOlderVersion(folder: string, name: string, channel: string, frame: number): Promise<Uint8Array<ArrayBuffer>> {
  const bytes = await readBytes(join(folder, name)).catch((cause: unknown) => {
    throw notThere(channel, frame, cause);
  });
  try {
    if (!NO_VOXELS.has(channel) && decodePreview(new Uint8Array(inflateSync(bytes))) !== null) return new Uint8Array(bytes);
  } catch {
    // Said below.
  }
  throw new RuddleError('file-invalid', `The ${channel} of frame ${String(frame)} is damaged on the disk.`, {
    file: name,
    reason: 'no preview',
  });
}
