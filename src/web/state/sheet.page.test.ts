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
      return { draft: { settings: draft, revision: ++ofDraft, updatedAt: 0 } };
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
        down ? refuse('disk-full', 'The disk is full.') : { draft: { settings: body.settings, revision: 1, updatedAt: 0 } },
    });
    voxel(0.04);
    await sheet().flush();
    expect([notice(), sheet().unsaved, sizeIn(sheet().settings)]).toEqual(['Not saved: The disk is full.', true, 0.04]);
    down = false;
    await sheet().flush();
    expect([asked.length, sheet().unsaved]).toEqual([2, false]);
  });

  it('that was changed in another window gives way to the newer one, and says so', async () => {
    serve({ 'PUT /variants/variant-1/draft': () => refuse('conflict', 'edited elsewhere') });
    voxel(0.04);
    await sheet().flush();
    expect(notice()).toMatch(/edited in another window/);
    expect(sheet().variantId).toBeNull();
    const newer = { settings: withGroups(shot.variants[0]!.settings, { detail: { voxelSize: 0.07 } }) };
    open({ ...shot, variants: [{ ...shot.variants[0]!, draft: { ...newer, revision: 5, updatedAt: 0 } }] });
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
