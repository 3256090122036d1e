import { beforeEach, describe, expect, it } from 'vitest';
import { withValue, type Settings, type ShotFields, gasSolveOf } from '#core/shot';
import type { ShotDto } from '#protocol';
import { makeShot, withGroups } from '#testing/values';
import { type Asked, serve } from '#web/testing';
import { useNotice } from './notice';
import { useSheet } from './sheet';

const shot = makeShot();
const open = (s: ShotDto = shot, n = 0): void => {
  useSheet.getState().open(s, s.variants[n]!);
};
const sheet = () => useSheet.getState();
const voxel = (v: number): boolean => sheet().editSolve((s) => withValue(s, ['detail', 'voxelSize'], v));
const notice = (): string => useNotice.getState().notice?.text ?? '';
/** A refusal as the server gives it. */
const refuse = (tag: string, message: string): never => {
  // eslint-disable-next-line @typescript-eslint/only-throw-error -- an answer of the server, not an error of this page
  throw { tag, message, fields: {}, cause: null };
};

beforeEach(() => {
  localStorage.clear();
  useSheet.setState({ shotId: null, variantId: null, unsaved: false });
  useNotice.setState({ notice: null });
  open();
});

const sizeIn = (settings: Settings | null): number | null => settings && gasSolveOf(settings).detail.voxelSize;

/** A server that keeps drafts and fields as Ruddle's does: by revisions. */
function keeping(): { asked: Asked[]; draft: () => Settings | null; fields: () => ShotFields | null } {
  let [draft, fields]: [Settings | null, ShotFields | null] = [null, null];
  let [ofDraft, ofFields] = [0, 1];
  const asked = serve({
    'PUT /variants/variant-1/draft': ({ body }: { body: { settings: Settings; revision: number } }) => {
      if (body.revision !== ofDraft) return refuse('conflict', 'edited elsewhere');
      draft = body.settings;
      ofDraft++;
      return { draft: { settings: draft, revision: ofDraft, updatedAt: 0 }, revision: ofDraft };
    },
    'PUT /shots/shot-1/fields': ({ body }: { body: { fields: ShotFields; revision: number } }) => {
      if (body.revision !== ofFields) return refuse('conflict', 'changed elsewhere');
      fields = body.fields;
      return { ...shot, revision: ++ofFields };
    },
  });
  return { asked, draft: () => draft, fields: () => fields };
}

describe('what is on the sheet', () => {
  it('is saved a moment after it changes, edits in between as one', async () => {
    const { asked, draft } = keeping();
    for (const v of [0.045, 0.04, 0.035]) voxel(v);
    await expect.poll(() => asked.length).toBe(1);
    expect(sizeIn(draft())).toBe(0.035);
    voxel(0.03);
    await sheet().flush();
    expect([asked.length, sizeIn(draft()), sheet().unsaved]).toEqual([2, 0.03, false]);
  });

  it('is kept when the page is left while an edit is on its way to the server', async () => {
    const { asked, draft } = keeping();
    voxel(0.04);
    const saving = sheet().flush();
    await expect.poll(() => asked.length).toBe(1);
    // The answer to the first is not there yet.
    voxel(0.03);
    window.dispatchEvent(new Event('pagehide'));
    await expect.poll(() => sizeIn(draft())).toBe(0.03);
    await saving;
    expect(asked.slice(0, 2).map((a) => (a.body as { revision: number }).revision)).toEqual([0, 1]);
  });

  it('sends the shot only when the shot changed', async () => {
    const { asked, fields } = keeping();
    voxel(0.04);
    sheet().editSheet((s) => ({ ...s, fields: { ...s.fields, lastFrame: 48 } }));
    await sheet().flush();
    expect([asked.map((a) => a.path), fields()!.lastFrame]).toEqual([['/shots/shot-1/fields', '/variants/variant-1/draft'], 48]);
    voxel(0.03);
    await sheet().flush();
    expect(asked.map((a) => a.path).slice(2)).toEqual(['/variants/variant-1/draft']);
  });

  it('that could not be saved is said, kept, and saved with the next edit', async () => {
    let down = true;
    const asked = serve({
      'PUT /variants/variant-1/draft': ({ body }: { body: { settings: Settings } }) =>
        down ? refuse('disk-full', 'The disk is full.') : { draft: { settings: body.settings, revision: 1, updatedAt: 0 }, revision: 1 },
    });
    voxel(0.04);
    await sheet().flush();
    expect([notice(), sheet().unsaved, sizeIn(sheet().settings)]).toEqual(['Not saved: The disk is full.', true, 0.04]);
    down = false;
    await sheet().flush();
    expect([asked.length, sheet().unsaved]).toEqual([2, false]);
  });

  it('that was changed in another window gives way to the newer one, and says so', async () => {
    serve({
      'PUT /variants/variant-1/draft': () => refuse('conflict', 'edited elsewhere'),
      'GET /shots/shot-1': {
        ...shot,
        variants: [
          {
            ...shot.variants[0]!,
            revision: 4,
            draft: { settings: withGroups(shot.variants[0]!.settings, { detail: { voxelSize: 0.06 } }), revision: 4, updatedAt: 0 },
          },
        ],
      },
    });
    voxel(0.04);
    await sheet().flush();
    expect(notice()).toMatch(/edited in another window/);
    expect(sheet().variantId).toBeNull();
    const newer = { settings: withGroups(shot.variants[0]!.settings, { detail: { voxelSize: 0.07 } }) };
    open({ ...shot, variants: [{ ...shot.variants[0]!, revision: 5, draft: { ...newer, revision: 5, updatedAt: 0 } }] });
    expect(sizeIn(sheet().settings)).toBe(0.07);
  });

  it('is not overtaken by its own save that comes back, nor by an older one', () => {
    voxel(0.04);
    const older = { settings: shot.variants[0]!.settings, revision: 0, updatedAt: 0 };
    open({ ...shot, variants: [{ ...shot.variants[0]!, draft: older }] });
    expect(sizeIn(sheet().settings)).toBe(0.04);
  });

  it('of a variant that is opened again is its draft; of another one, without the steps of this', () => {
    voxel(0.04);
    const other = { ...shot.variants[0]!, id: 'variant-2', name: 'Other' };
    open({ ...shot, variants: [shot.variants[0]!, other] }, 1);
    expect([sizeIn(sheet().settings), sheet().undo.length, sheet().variantId]).toEqual([0.05, 0, 'variant-2']);
  });

  it('of the variant that is left is stored as its own, however quickly another one is opened', async () => {
    const other = { ...shot.variants[0]!, id: 'variant-2', name: 'Other' };
    const sent: [string, number | null][] = [];
    const take =
      (id: string) =>
      ({ body }: { body: { settings: Settings; revision: number } }) => {
        sent.push([id, sizeIn(body.settings)]);
        return { draft: { settings: body.settings, revision: 1, updatedAt: 0 }, revision: 1 };
      };
    serve({ 'PUT /variants/variant-1/draft': take('variant-1'), 'PUT /variants/variant-2/draft': take('variant-2') });
    voxel(0.04);
    open({ ...shot, variants: [shot.variants[0]!, other] }, 1);
    voxel(0.03);
    await sheet().flush();
    expect(sent).toEqual([
      ['variant-1', 0.04],
      ['variant-2', 0.03],
    ]);
  });

  it('has its way back again when its variant is opened again', async () => {
    keeping();
    const other = { ...shot.variants[0]!, id: 'variant-2', name: 'Other' };
    const both = { ...shot, variants: [shot.variants[0]!, other] };
    for (const v of [0.04, 0.03]) voxel(v);
    await sheet().flush();
    open(both, 1);
    expect(sheet().undo).toEqual([]);
    // The list of shots may be older than what was stored.
    open(both, 0);
    expect([sizeIn(sheet().settings), sheet().undo.length]).toEqual([0.03, 2]);
    sheet().stepBack();
    expect(sizeIn(sheet().settings)).toBe(0.04);
  });

  it('goes on through a Test: edits made while it starts are edits of the variant that it froze, and the way back is kept', async () => {
    const { draft } = keeping();
    voxel(0.04);
    await sheet().flush();
    sheet().freeze('variant-1');
    voxel(0.03);
    await sheet().flush();
    // Nothing of it goes to the variant that is being frozen.
    expect(sizeIn(draft())).toBe(0.04);
    const child = { ...shot.variants[0]!, id: 'variant-2', parentId: 'variant-1', frozen: true, settings: draft()!, revision: 0 };
    const after = { ...shot, variants: [{ ...shot.variants[0]!, revision: 2 }, child] };
    sheet().frozen('variant-2');
    open(after, 0);
    const sent: (number | null)[] = [];
    serve({
      'PUT /variants/variant-2/draft': ({ body }: { body: { settings: Settings; revision: number } }) => {
        sent.push(sizeIn(body.settings));
        return { draft: { settings: body.settings, revision: 1, updatedAt: 0 }, revision: 1 };
      },
    });
    open(after, 1);
    expect([sheet().variantId, sizeIn(sheet().settings), sizeIn(sheet().base), sheet().undo.length]).toEqual(['variant-2', 0.03, 0.04, 2]);
    await sheet().flush();
    expect(sent).toEqual([0.03]);
    sheet().stepBack();
    sheet().stepBack();
    expect(sizeIn(sheet().settings)).toBe(0.05);
  });

  it('keeps edits made while a Test starts also when another variant is opened before it has begun', async () => {
    const { draft } = keeping();
    sheet().freeze('variant-1');
    voxel(0.03);
    open({ ...shot, variants: [shot.variants[0]!, { ...shot.variants[0]!, id: 'variant-3', name: 'Other' }] }, 1);
    await sheet().flush();
    expect(sizeIn(draft())).toBe(0.03);
    sheet().frozen('variant-2');
    expect(sheet().variantId).toBe('variant-3');
  });

  it('frozen into its own variant keeps its way back, and an edit that was made on the draft is made on the variant', async () => {
    let revision = 0;
    let server = { ...shot.variants[0]! };
    serve({
      'GET /shots/shot-1': () => ({ ...shot, variants: [server] }),
      'PUT /variants/variant-1/draft': ({ body }: { body: { settings: Settings; revision: number } }) => {
        if (body.revision !== revision) return refuse('conflict', 'edited elsewhere');
        server = { ...server, draft: { settings: body.settings, revision: ++revision, updatedAt: 0 }, revision };
        return { draft: server.draft, revision };
      },
    });
    voxel(0.04);
    await sheet().flush();
    // Another window starts a Test of this very draft.
    server = { ...server, frozen: true, settings: server.draft!.settings, draft: null, revision: ++revision };
    voxel(0.03);
    await sheet().flush();
    expect([notice(), sizeIn(server.draft!.settings), sheet().undo.length]).toEqual(['', 0.03, 2]);
    server = { ...server, settings: server.draft!.settings, draft: null, revision: ++revision };
    open({ ...shot, variants: [server] });
    expect([sheet().undo.length, notice()]).toEqual([2, '']);
  });

  it('is tried again by itself when it could not be stored', async () => {
    let down = true;
    const asked = serve({
      'PUT /variants/variant-1/draft': ({ body }: { body: { settings: Settings } }) =>
        down ? refuse('disk-full', 'The disk is full.') : { draft: { settings: body.settings, revision: 1, updatedAt: 0 }, revision: 1 },
    });
    voxel(0.04);
    await sheet().flush();
    expect([asked.length, sheet().unsaved]).toEqual([1, true]);
    down = false;
    await expect.poll(() => sheet().unsaved, { timeout: 10_000 }).toBe(false);
    expect(asked).toHaveLength(2);
  });

  it('too large for a request that outlives its page comes back with the next one', async () => {
    serve({ 'PUT /variants/variant-1/draft': () => refuse('internal', 'it never arrives') });
    voxel(0.04);
    window.dispatchEvent(new Event('pagehide'));
    const { draft } = keeping();
    useSheet.setState({ shotId: null, variantId: null, unsaved: false });
    open();
    expect([sizeIn(sheet().settings), notice()]).toEqual([0.04, 'An edit that was not stored when the page was left is back.']);
    await sheet().flush();
    expect(sizeIn(draft())).toBe(0.04);
    // Once: not with each page.
    useSheet.setState({ shotId: null, variantId: null, unsaved: false });
    useNotice.setState({ notice: null });
    open();
    expect(notice()).toBe('');
  });

  it('left behind on an older draft is one step away, and the newer draft stays', () => {
    serve({ 'PUT /variants/variant-1/draft': () => refuse('internal', 'it never arrives') });
    voxel(0.04);
    window.dispatchEvent(new Event('pagehide'));
    useSheet.setState({ shotId: null, variantId: null, unsaved: false });
    const settings = withGroups(shot.variants[0]!.settings, { detail: { voxelSize: 0.07 } });
    open({ ...shot, variants: [{ ...shot.variants[0]!, revision: 3, draft: { settings, revision: 3, updatedAt: 0 } }] });
    expect([sizeIn(sheet().settings), notice()]).toEqual([0.07, expect.stringMatching(/the draft has changed since/)]);
    sheet().stepForward();
    expect(sizeIn(sheet().settings)).toBe(0.04);
  });

  it('refuses what is not valid and says where', () => {
    const before = sheet().settings;
    expect(voxel(-1)).toBe(false);
    expect([sheet().settings, sheet().undo.length]).toEqual([before, 0]);
    expect(notice()).toMatch(/^Not changed: /);
  });

  it('goes back and on step by step; a new edit ends what could be redone', () => {
    const at = () => sizeIn(sheet().settings);
    for (const v of [0.04, 0.03]) voxel(v);
    sheet().stepBack();
    expect(at()).toBe(0.04);
    sheet().stepBack();
    sheet().stepBack();
    expect(at()).toBe(0.05);
    sheet().stepForward();
    sheet().stepForward();
    expect(at()).toBe(0.03);
    sheet().stepBack();
    voxel(0.02);
    expect(sheet().redo).toEqual([]);
    sheet().stepBack();
    expect(at()).toBe(0.04);
  });

  it('a drag is one step, back to where it began; the next drag is another', () => {
    for (const drag of [
      [0.045, 0.04, 0.03],
      [0.028, 0.025],
    ]) {
      window.dispatchEvent(new PointerEvent('pointerdown'));
      for (const v of drag) voxel(v);
      window.dispatchEvent(new PointerEvent('pointerup'));
    }
    expect(sheet().undo.length).toBe(2);
    sheet().stepBack();
    expect(sizeIn(sheet().settings)).toBe(0.03);
    sheet().stepBack();
    expect(sizeIn(sheet().settings)).toBe(0.05);
  });
});
