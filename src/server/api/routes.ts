import {
  importShotSchema,
  newShotSchema,
  approvedSchema,
  continueSchema,
  firstSchema,
  sureSchema,
  notesSchema,
  patchShotSchema,
  renameSchema,
  saveDraftSchema,
  sketchSchema,
  sketchingSchema,
  startRunSchema,
  type StatusDto,
  type VerifiedDto,
} from '#protocol';
import { freeBytes } from '#server/cache';
import { eventStream } from './events';
import { frameData } from './frame-data';
import { body, fileOf, incoming, type Route, taskOf } from './route';

export const routes: readonly Route[] = [
  {
    method: 'GET',
    path: '/status',
    answer: async ({ app }): Promise<StatusDto> => ({
      version: app.config.version,
      freeBytes: await freeBytes(app.config.data),
      keepBytes: app.config.keepBytes,
      threads: app.config.threads,
      startedAt: app.startedAt,
      found: app.found,
    }),
  },
  { method: 'GET', path: '/events', answer: ({ app, request }) => Promise.resolve(eventStream(app.events, request.signal)) },
  { method: 'GET', path: '/shots', answer: ({ app }) => app.shots.list() },
  { method: 'POST', path: '/shots', answer: async ({ app, request }) => app.shots.add(await body(request, importShotSchema)) },
  { method: 'GET', path: '/shots/:shot', answer: ({ app, params }) => app.shots.get(params['shot'] ?? '') },
  {
    method: 'PUT',
    path: '/shots/:shot/fields',
    answer: async ({ app, request, params }) => {
      const { fields, revision } = await body(request, patchShotSchema);
      return await app.shots.setFields(params['shot'] ?? '', fields, revision);
    },
  },
  {
    method: 'GET',
    path: '/shots/:shot/raw',
    answer: async ({ app, params }) =>
      new Response(await app.shots.raw(params['shot'] ?? ''), {
        headers: {
          'content-type': 'application/json; charset=utf-8',
          'content-disposition': `attachment; filename="${params['shot'] ?? 'shot'}-raw.json"`,
        },
      }),
  },
  {
    method: 'GET',
    path: '/shots/:shot/file',
    answer: async ({ app, request, params, query, drained }) => {
      const { bytes, body, zip } = await app.geometry.shotFile(params['shot'] ?? '', taskOf(request, query), drained);
      return new Response(body, {
        headers: {
          'content-type': zip ? 'application/zip' : 'application/json; charset=utf-8',
          'content-length': String(bytes),
          'content-disposition': `attachment; filename="${params['shot'] ?? 'shot'}.${zip ? 'zip' : 'json'}"`,
        },
      });
    },
  },
  {
    method: 'POST',
    path: '/bundles',
    answer: async ({ app, request, query }) =>
      app.geometry.addBundle(incoming(request), fileOf(query, 'the bundle'), taskOf(request, query)),
  },
  {
    method: 'POST',
    path: '/geometry',
    answer: async ({ app, request, query }) => app.geometry.add(incoming(request), fileOf(query, 'the file'), taskOf(request, query)),
  },
  {
    // The address is the fingerprint of what is there: it never changes.
    method: 'GET',
    path: '/geometry/:hash',
    answer: async ({ app, params }) =>
      new Response(new Uint8Array(await app.geometry.read(params['hash'] ?? '')), {
        headers: { 'content-type': 'application/octet-stream', 'cache-control': 'private, max-age=31536000, immutable' },
      }),
  },
  {
    method: 'GET',
    path: '/geometry/:hash/picture',
    answer: async ({ app, params }) =>
      new Response(await app.geometry.picture(params['hash'] ?? ''), {
        headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=31536000, immutable' },
      }),
  },
  {
    method: 'PUT',
    path: '/variants/:variant/draft',
    answer: async ({ app, request, params }) => {
      const { settings, revision } = await body(request, saveDraftSchema);
      return await app.shots.saveDraft(params['variant'] ?? '', settings, revision);
    },
  },
  {
    method: 'PUT',
    path: '/variants/:variant/name',
    answer: async ({ app, request, params }) => app.shots.rename(params['variant'] ?? '', (await body(request, renameSchema)).name),
  },
  {
    method: 'POST',
    path: '/runs',
    answer: async ({ app, request }) => {
      const { variantId, rung, ...how } = await body(request, startRunSchema);
      return await app.shots.startRun(variantId, rung, app.runner, how);
    },
  },
  {
    method: 'POST',
    path: '/new-shots',
    answer: async ({ app, request }) => {
      const { name, from, kind } = await body(request, newShotSchema);
      return await app.shots.create(name, from, kind);
    },
  },
  {
    method: 'GET',
    path: '/shots/:shot/evidence',
    answer: async ({ app, params }) =>
      new Response(await app.costs.evidence((await app.shots.row(params['shot'] ?? '')).id), {
        headers: { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-store' },
      }),
  },
  {
    method: 'POST',
    path: '/shots/:shot/sketches',
    answer: async ({ app, request, params }) => {
      const { settings, factor, frames } = await body(request, sketchSchema);
      const { id, fields } = await app.shots.row(params['shot'] ?? '');
      await app.costs.keepSketch({ id, fields: fields.value }, settings, factor, frames);
      return {};
    },
  },
  {
    method: 'POST',
    path: '/sketching',
    answer: async ({ app, request }) => {
      app.runner.sketching((await body(request, sketchingSchema)).on);
      return {};
    },
  },
  {
    method: 'POST',
    path: '/variants/:variant/duplicate',
    answer: async ({ app, params }) => ({ id: await app.variants.duplicate(params['variant'] ?? '') }),
  },
  {
    method: 'POST',
    path: '/variants/:variant/delete',
    answer: async ({ app, params }) => {
      await app.variants.remove(params['variant'] ?? '');
      return {};
    },
  },
  {
    method: 'POST',
    path: '/variants/:variant/restore',
    answer: async ({ app, params }) => {
      await app.variants.restore(params['variant'] ?? '');
      return {};
    },
  },
  {
    method: 'POST',
    path: '/shots/:shot/delete',
    answer: async ({ app, request, params }) => {
      await app.deletedShots.remove(params['shot'] ?? '', (await body(request, sureSchema)).sure);
      return {};
    },
  },
  {
    method: 'POST',
    path: '/shots/:shot/restore',
    answer: async ({ app, params }) => {
      await app.deletedShots.restore(params['shot'] ?? '');
      return {};
    },
  },
  {
    method: 'PUT',
    path: '/runs/:run/notes',
    answer: async ({ app, request, params }) => app.runs.setNotes(params['run'] ?? '', (await body(request, notesSchema)).notes),
  },
  {
    method: 'PUT',
    path: '/runs/:run/approved',
    answer: async ({ app, request, params }) => app.runs.setApproved(params['run'] ?? '', (await body(request, approvedSchema)).approved),
  },
  { method: 'GET', path: '/runs/:run', answer: ({ app, params }) => app.runs.detail(params['run'] ?? '') },
  {
    method: 'POST',
    path: '/runs/:run/cancel',
    answer: async ({ app, params }) => {
      await app.runner.cancel(params['run'] ?? '');
      return await app.runs.get(params['run'] ?? '');
    },
  },
  {
    method: 'POST',
    path: '/runs/:run/first',
    answer: async ({ app, request, params }) => {
      await app.runner.first(params['run'] ?? '', (await body(request, firstSchema)).frame);
      return {};
    },
  },
  {
    method: 'POST',
    path: '/runs/:run/continue',
    answer: async ({ app, request, params }) => {
      await app.runner.goOn(params['run'] ?? '', await body(request, continueSchema));
      return await app.runs.get(params['run'] ?? '');
    },
  },
  { method: 'GET', path: '/runs/:run/longer', answer: ({ app, params }) => app.runner.longer(params['run'] ?? '') },
  { method: 'POST', path: '/runs/:run/verify', answer: ({ app, params }): Promise<VerifiedDto> => app.runs.verify(params['run'] ?? '') },
  {
    method: 'POST',
    path: '/runs/:run/free',
    answer: async ({ app, request, params }) => {
      await app.freed.free(params['run'] ?? '', (await body(request, sureSchema)).sure);
      return await app.runs.announce(params['run'] ?? '');
    },
  },
  {
    method: 'POST',
    path: '/runs/:run/restore',
    answer: async ({ app, params }) => {
      await app.freed.restore(params['run'] ?? '');
      return await app.runs.announce(params['run'] ?? '');
    },
  },
  {
    method: 'GET',
    path: '/runs/:run/frames/:frame/:channel',
    answer: ({ app, params, query, request, drained }) =>
      frameData(app, params['run'] ?? '', params['frame'] ?? '', params['channel'] ?? '', query.get('bounds'), request, drained),
  },
];
