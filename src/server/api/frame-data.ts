import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { inflateSync } from 'node:zlib';
import { RuddleError } from '#core/errors';
import { KEPT_CHANNELS } from '#core/look';
import { decodePreview } from '#core/formats';
import { type WrittenFile, frameFileName, previewFileName, readBytes } from '#server/cache';
import type { App } from '#server/app';

/** Channels that are no voxels: a pass's particles, and its pictures (which lie under the frame's own name). */
const PICTURE = 'picture';
/** The frame's own file, as it lies on the disk: .vdb or .ply. */
const FILE = 'file';
const NO_VOXELS = new Set(['points', 'mesh', 'outside', PICTURE, FILE]);
const KNOWN: readonly string[] = [...KEPT_CHANNELS, 'points', 'mesh', 'outside', PICTURE, FILE];

/** A frame's channel as it is looked at: 8-bit voxels, points, or a picture; or its own file. The address names run and frame, whose bytes never change: it may be kept for ever. */
export async function frameData(
  app: App,
  runId: string,
  frameText: string,
  channel: string,
  boundsText: string | null,
  request: Request,
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
  let bytes: Buffer;
  try {
    bytes = await readBytes(join(stored.folder, name));
  } catch (cause) {
    if (written) await app.runs.foundDamage(runId, frame, 'missing');
    throw new RuddleError(
      'not-found',
      `The cache has no ${channel} of frame ${String(frame)}; it was not kept, or removed by hand.`,
      { what: channel },
      cause,
    );
  }
  if (!isWhole(bytes, written, channel)) {
    await app.runs.foundDamage(runId, frame, 'damaged');
    const reason =
      written && bytes.length !== written.bytes
        ? `it has ${String(bytes.length)} of ${String(written.bytes)} bytes`
        : 'its checksum differs';
    throw new RuddleError('file-invalid', `The ${channel} of frame ${String(frame)} is damaged on the disk: ${reason}.`, {
      file: name,
      reason,
    });
  }
  return new Response(new Uint8Array(bytes), { headers });
}

/** Whether a file's bytes are what was written. Of an older version's files no checksum is known: they must at least be a preview. */
function isWhole(bytes: Buffer, written: WrittenFile | null, channel: string): boolean {
  if (written) return bytes.length === written.bytes && createHash('sha256').update(bytes).digest('hex') === written.checksum;
  if (NO_VOXELS.has(channel)) return false;
  try {
    return decodePreview(new Uint8Array(inflateSync(bytes))) !== null;
  } catch {
    return false;
  }
}
