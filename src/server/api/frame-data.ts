import { join } from 'node:path';
import { deflateSync, inflateSync } from 'node:zlib';
import { RuddleError } from '#core/errors';
import { KEPT_CHANNELS } from '#core/look';
import { decodePreview, encodePreview, halvePreview } from '#core/formats';
import { previewFileName, readBytes } from '#server/cache';
import type { App } from '#server/app';

const MAX_LOD = 4;

/** A frame's channel as 8-bit voxels. The address names run and frame, whose bytes never change: it may be kept for ever. */
export async function frameData(
  app: App,
  runId: string,
  frameText: string,
  channel: string,
  { lodText, boundsText }: { readonly lodText: string | null; readonly boundsText: string | null },
  request: Request,
): Promise<Response> {
  const frame = Number(frameText);
  const lod = Number(lodText ?? 0);
  const bounds = Number(boundsText ?? 0);
  if (
    !Number.isInteger(frame) ||
    !(KEPT_CHANNELS as readonly string[]).includes(channel) ||
    !Number.isInteger(bounds) ||
    bounds < 0 ||
    !Number.isInteger(lod) ||
    lod < 0 ||
    lod > MAX_LOD
  ) {
    throw new RuddleError('not-found', 'There is no such frame or channel.', { what: `${frameText}/${channel}` });
  }
  const { folder, pass, checksum } = await app.runs.frame(runId, frame, bounds);
  const etag = `"${checksum ?? ''}-${channel}-${String(bounds)}-${String(lod)}"`;
  const headers = {
    'content-type': 'application/octet-stream',
    'cache-control': 'private, max-age=31536000, immutable',
    etag,
    'content-encoding': 'deflate',
  };
  if (request.headers.get('if-none-match') === etag) return new Response(null, { status: 304, headers });
  let bytes: Buffer;
  try {
    bytes = await readBytes(join(folder, previewFileName(pass, frame, channel)));
  } catch (cause) {
    throw new RuddleError(
      'not-found',
      `The cache has no ${channel} of frame ${String(frame)}; it was not kept, or removed by hand.`,
      { what: channel },
      cause,
    );
  }
  if (lod === 0) return new Response(new Uint8Array(bytes), { headers });
  let preview = decodePreview(new Uint8Array(inflateSync(bytes)));
  if (!preview) throw new RuddleError('file-invalid', 'A preview is damaged.', { file: channel, reason: 'header' });
  for (let n = 0; n < lod; n++) preview = halvePreview(preview);
  return new Response(new Uint8Array(deflateSync(encodePreview(preview), { level: 1 })), { headers });
}
