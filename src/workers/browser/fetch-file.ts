import { RuddleError } from '#core/errors';

/**
 * The file of one part of a run's frame, from the server that the page came from; waits for it, as a pass reads its frames in the middle of a computation. In
 * a worker nobody else waits. Throws `not-found` with what the server says.
 */
export function fetchFile(run: string, frame: number, part: number): Uint8Array<ArrayBuffer> {
  const request = new XMLHttpRequest();
  request.open('GET', `/api/runs/${run}/frames/${String(frame)}/file?bounds=${String(part)}`, false);
  request.responseType = 'arraybuffer';
  request.send();
  const bytes = new Uint8Array(request.response as ArrayBuffer);
  if (request.status === 200) return bytes;
  const { error } = JSON.parse(new TextDecoder().decode(bytes)) as { readonly error?: { readonly message: string } };
  throw new RuddleError('not-found', error?.message ?? `Frame ${String(frame)} of what it reads is not there.`, { what: run });
}
