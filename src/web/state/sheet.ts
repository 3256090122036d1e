import { useMemo } from 'react';
import { create } from 'zustand';
import {
  type Difference,
  type Settings,
  type ShotFields,
  type SolveSettings,
  canonicalJson,
  settingsDifferences,
  settingsSchema,
  shotFieldsSchema,
  showDifference,
  solveOf,
  withSolve,
} from '#core/shot';
import type { ShotDto, VariantDto } from '#protocol';
import { ApiError, api } from './api';
import { gesture } from './gesture';
import { type LeftBehind, leaveBehind, pickUp } from './left-behind';
import { type Step, samePlaces, stepBetween, stepped } from './history';
import { say } from './notice';
import { queryClient } from './queries';

/** What is edited: the variant's settings (as its draft) and the shot's own fields. */
interface Sheet {
  readonly settings: Settings;
  readonly fields: ShotFields;
}

/** What is on the sheet, with the way back. */
export interface SheetState extends Sheet {
  readonly shotId: string | null;
  readonly variantId: string | null;
  readonly base: Settings;
  /** Of the shot's fields, as the server has them. */
  readonly fieldsRevision: number;
  readonly undo: readonly Step[];
  readonly redo: readonly Step[];
  /** Edits that the server does not have yet. */
  readonly unsaved: boolean;
  open: (shot: ShotDto, variant: VariantDto) => void;
  /** Changes settings; refused (with a notice) when the result is not valid. */
  edit: (change: (settings: Settings) => Settings) => boolean;
  /** The same of the solve and its scene. */
  editSolve: (change: (solve: SolveSettings) => SolveSettings) => boolean;
  /** Changes the shot's fields, or fields and settings as one edit. */
  editSheet: (change: (sheet: Sheet) => Sheet, title?: string) => boolean;
  stepBack: () => void;
  stepForward: () => void;
  /** Resolves when the server has everything, or when it was tried. */
  flush: () => Promise<void>;
  /** A run of this variant's stored draft is being started: until the run names the variant that it froze, the sheet is neither stored nor replaced. */
  freeze: (variantId: string) => void;
  /** It froze this variant; null: it was not started. Edits made meanwhile are edits of that one, and the way back goes through the freeze. */
  frozen: (variantId: string | null) => void;
}

/** A variant's state on the server, by the last answer that this page has. */
interface Known {
  readonly revision: number;
  /** Canonical JSON of its draft, or of its own settings where it has none. */
  readonly content: string;
}

/** An edit on its way to the server, with its own variant: another one may be opened meanwhile. */
interface Pending extends Sheet {
  readonly shotId: string;
  readonly variantId: string;
}

const SAVE_AFTER = 200;
const UNDO_DEPTH = 500;
const empty: Sheet = { settings: settingsSchema.parse({}), fields: shotFieldsSchema.parse({ name: 'none' }) };

/** Waits between two tries to store an edit, milliseconds: each longer than the one before. */
const AGAIN = [1000, 2000, 4000, 8000, 15_000, 30_000];
/** Refusals that no further try will change. */
const FINAL = new Set(['settings-invalid', 'not-found', 'refused']);

let timer: ReturnType<typeof setTimeout> | undefined;
let saving: Promise<void> = Promise.resolve();
/** Fields as the server has them. */
let savedFields = '';
/** By variant. */
const known = new Map<string, Known>();
/** The draft that is on its way to the server: the next one follows it. */
let onItsWay: string | null = null;
/** Edits of variants that are not open any more, and could not be stored yet. */
const stranded = new Map<string, Pending>();
let retry: ReturnType<typeof setTimeout> | undefined;
let tries = 0;
/** Undo and redo of variants that were left, with their sheets. */
const ways = new Map<string, { readonly content: string; readonly undo: readonly Step[]; readonly redo: readonly Step[] }>();
/** A freeze that goes on: which variant it is of, and which one it made. */
let freezing: { readonly from: string; readonly to: string | null } | null = null;
/** The drag that made the last step: what it changes more is the same step. */
let stepGesture = 0;

const knownOf = ({ revision, draft, settings }: VariantDto): Known => ({ revision, content: canonicalJson(draft?.settings ?? settings) });

/** Whether what the server has now is still what this page stored there last: under another revision since a run froze it, into the variant itself or into a new one. */
const wasOurs = ({ variants }: ShotDto, now: VariantDto, before: Known): boolean =>
  knownOf(now).content === before.content ||
  (now.draft === null && variants.some((v) => v.parentId === now.id && canonicalJson(v.settings) === before.content));

const titleOf = (from: Sheet, to: Sheet): string => {
  const first = settingsDifferences(from.settings, to.settings)[0];
  return first ? showDifference(first) : 'the shot';
};

export const useSheet = create<SheetState>((set, get) => {
  const saveDraft = async ({ shotId, variantId, settings }: Pending, again = false): Promise<void> => {
    const before = known.get(variantId) ?? { revision: 0, content: '' };
    onItsWay = variantId;
    try {
      const { revision } = await api.saveDraft(variantId, settings, before.revision);
      known.set(variantId, { revision, content: canonicalJson(settings) });
    } catch (error) {
      if (!(error instanceof ApiError) || error.tag !== 'conflict') throw error;
      const shot = await api.shot(shotId);
      const now = shot.variants.find((v) => v.id === variantId);
      if (!again && now && wasOurs(shot, now, before)) {
        known.set(variantId, knownOf(now));
        await saveDraft({ shotId, variantId, settings } as Pending, true);
        return;
      }
      say('warning', 'This draft was edited in another window; here is the newer one.');
      known.delete(variantId);
      ways.delete(variantId);
      if (get().variantId === variantId) set({ variantId: null, undo: [], redo: [], unsaved: false });
      await queryClient.invalidateQueries({ queryKey: ['shot'] });
    } finally {
      onItsWay = null;
    }
  };
  const saveFields = async (shotId: string, fields: ShotFields, text: string): Promise<void> => {
    try {
      const { revision } = await api.setShot(shotId, fields, get().fieldsRevision);
      savedFields = text;
      if (get().shotId === shotId) set({ fieldsRevision: revision });
    } catch (error) {
      if (!(error instanceof ApiError) || error.tag !== 'conflict') throw error;
      say('warning', "The shot's frames or budgets were changed in another window; here are the newer ones.");
      const shot = await api.shot(shotId);
      savedFields = canonicalJson(shot.fields);
      if (get().shotId === shotId) set({ fields: shot.fields, fieldsRevision: shot.revision });
    }
  };
  const send = async (edit: Pending): Promise<void> => {
    try {
      const text = canonicalJson(edit.fields);
      if (text !== savedFields && get().shotId === edit.shotId) await saveFields(edit.shotId, edit.fields, text);
      await saveDraft(edit);
      tries = 0;
    } catch (error) {
      if (get().variantId === edit.variantId) set({ unsaved: true });
      else stranded.set(edit.variantId, edit);
      say('error', `Not saved: ${error instanceof Error ? error.message : String(error)}`);
      if (error instanceof ApiError && FINAL.has(error.tag)) return;
      clearTimeout(retry);
      retry = setTimeout(sendAgain, AGAIN[Math.min(tries++, AGAIN.length - 1)]);
    }
  };
  const sendAgain = (): void => {
    for (const [id, edit] of stranded) {
      stranded.delete(id);
      saving = saving.then(() => send(edit));
    }
    void save();
  };
  /** Stores the present sheet; edits that come meanwhile are stored after it. */
  const save = (): Promise<void> => {
    clearTimeout(timer);
    const { shotId, variantId, settings, fields, unsaved } = get();
    if (variantId === null || shotId === null || !unsaved || freezing?.from === variantId) return saving;
    set({ unsaved: false });
    saving = saving.then(() => send({ shotId, variantId, settings, fields }));
    return saving;
  };
  /** An edit that an earlier page could not store: on the sheet where nothing came after it, else one step away. */
  const takeBack = (left: LeftBehind, server: Known): void => {
    const before = now();
    const step = stepBetween(before, { ...before, settings: left.settings }, 'the edit that was left');
    if (!step) return;
    if (left.revision === server.revision) {
      put(stepped(before, step.forward), { undo: [...get().undo, step], redo: [] });
      say('info', 'An edit that was not stored when the page was left is back.', { title: 'Undo', run: () => get().stepBack() });
      return;
    }
    set({ redo: [step] });
    say('warning', 'An edit was not stored when the page was left, and the draft has changed since.', {
      title: 'Use it',
      run: () => get().stepForward(),
    });
  };
  const put = (sheet: Sheet, history: Pick<SheetState, 'undo' | 'redo'>): void => {
    set({ ...sheet, unsaved: true, ...history });
    clearTimeout(timer);
    timer = setTimeout(() => void save(), SAVE_AFTER);
  };
  const now = (): Sheet => ({ settings: get().settings, fields: get().fields });
  const editSheet = (change: (sheet: Sheet) => Sheet, title?: string): boolean => {
    const before = now();
    const changed = change(before);
    const settings = settingsSchema.safeParse(changed.settings);
    const fields = shotFieldsSchema.safeParse(changed.fields);
    if (!settings.success || !fields.success) {
      const first = (settings.error ?? fields.error)?.issues[0];
      say('error', first ? `Not changed: ${first.message}` : 'Not changed.');
      return false;
    }
    const after: Sheet = { settings: settings.data, fields: fields.data };
    const own = stepBetween(before, after, title ?? titleOf(before, after));
    if (!own) return true;
    const { undo, redo } = get();
    const last = undo[undo.length - 1];
    const hand = gesture();
    // A drag is one step, from where it began to where it is now.
    const goesOn = hand !== 0 && hand === stepGesture && redo.length === 0 && last !== undefined && samePlaces(last, own);
    stepGesture = hand;
    if (!goesOn) {
      put(stepped(before, own.forward), { undo: [...undo, own].slice(-UNDO_DEPTH), redo: [] });
      return true;
    }
    const from = stepped(before, last.back);
    const whole = stepBetween(from, after, title ?? titleOf(from, after));
    put(whole ? stepped(from, whole.forward) : from, { undo: [...undo.slice(0, -1), ...(whole ? [whole] : [])], redo: [] });
    return true;
  };
  return {
    ...empty,
    shotId: null,
    variantId: null,
    base: empty.settings,
    fieldsRevision: 0,
    undo: [],
    redo: [],
    unsaved: false,
    open(shot, variant) {
      const state = get();
      const server = knownOf(variant);
      if (freezing?.to === variant.id && state.variantId === freezing.from) {
        known.set(variant.id, server);
        ways.delete(freezing.from);
        freezing = null;
        const unsaved = canonicalJson(state.settings) !== server.content;
        set({ variantId: variant.id, base: variant.settings, unsaved });
        if (unsaved) timer = setTimeout(() => void save(), SAVE_AFTER);
        return;
      }
      if (freezing?.from === variant.id && state.variantId === variant.id) return;
      if (state.variantId === variant.id) {
        // Our own saves come back too; only what is newer than ours replaces the sheet.
        if (state.base !== variant.settings) set({ base: variant.settings });
        if (state.unsaved || onItsWay === variant.id) return;
        const text = canonicalJson(shot.fields);
        if (text !== savedFields || shot.revision !== state.fieldsRevision) {
          savedFields = text;
          set({ fields: shot.fields, fieldsRevision: shot.revision });
        }
        if (server.revision <= (known.get(variant.id)?.revision ?? -1)) return;
        known.set(variant.id, server);
        // A draft that was frozen into its own variant is the same settings under another name.
        if (server.content === canonicalJson(state.settings)) return;
        say('info', 'The draft was changed elsewhere; here is the newer one.');
        set({ settings: variant.draft?.settings ?? variant.settings, undo: [], redo: [] });
        return;
      }
      if (state.shotId === null) for (const memory of [known, ways, stranded]) memory.clear();
      // Who goes elsewhere while a run starts leaves the edits made meanwhile as a draft of the variant that they were made on.
      if (freezing?.from === state.variantId) freezing = null;
      // The last edit of the variant that is left is stored as its own.
      void save();
      if (state.variantId !== null)
        ways.set(state.variantId, { content: canonicalJson(state.settings), undo: state.undo, redo: state.redo });
      const lost = stranded.get(variant.id);
      stranded.delete(variant.id);
      const way = ways.get(variant.id);
      // A list of shots that is older than what this page stored last: that is newer.
      const newer = (known.get(variant.id)?.revision ?? -1) > server.revision ? way : undefined;
      if (!newer) known.set(variant.id, server);
      const settings =
        lost?.settings ?? (newer && settingsSchema.parse(JSON.parse(newer.content))) ?? variant.draft?.settings ?? variant.settings;
      const same = way?.content === canonicalJson(settings);
      savedFields = canonicalJson(shot.fields);
      set({
        shotId: shot.id,
        variantId: variant.id,
        base: variant.settings,
        settings,
        fields: shot.fields,
        fieldsRevision: shot.revision,
        undo: same ? way.undo : [],
        redo: same ? way.redo : [],
        unsaved: lost !== undefined,
      });
      const left = pickUp(variant.id);
      if (left && canonicalJson(left.settings) !== server.content) takeBack(left, server);
    },
    edit: (change) => editSheet((sheet) => ({ ...sheet, settings: change(sheet.settings) })),
    editSolve: (change) => editSheet(({ fields, settings }) => ({ fields, settings: withSolve(settings, change(solveOf(settings))) })),
    editSheet,
    stepBack() {
      const { undo, redo } = get();
      const last = undo[undo.length - 1];
      if (last) put(stepped(now(), last.back), { undo: undo.slice(0, -1), redo: [...redo, last] });
    },
    stepForward() {
      const { undo, redo } = get();
      const next = redo[redo.length - 1];
      if (next) put(stepped(now(), next.forward), { redo: redo.slice(0, -1), undo: [...undo, next] });
    },
    async flush() {
      await save();
    },
    freeze(variantId) {
      freezing = { from: variantId, to: null };
    },
    frozen(variantId) {
      const from = freezing?.from;
      freezing = from !== undefined && variantId !== null && variantId !== from ? { from, to: variantId } : null;
      if (!freezing) void save();
    },
  };
});

// Leaving the page keeps what was just typed.
if (typeof window !== 'undefined') {
  window.addEventListener('pagehide', () => {
    const { shotId, variantId, settings, fields, fieldsRevision, unsaved } = useSheet.getState();
    if (shotId === null || variantId === null || !unsaved) return;
    const revision = (known.get(variantId)?.revision ?? 0) + (onItsWay === variantId ? 1 : 0);
    leaveBehind({ variantId, revision, settings });
    const put = (path: string, body: unknown): void => {
      void fetch(path, {
        method: 'PUT',
        keepalive: true,
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(body),
      });
    };
    put(`/api/variants/${variantId}/draft`, { settings, revision });
    if (canonicalJson(fields) !== savedFields) put(`/api/shots/${shotId}/fields`, { fields, revision: fieldsRevision });
  });
}

const itself = (solve: SolveSettings): unknown => solve;

/** The solve on the sheet, with the scene that it stands in; or what is picked from it. */
export function useSolve(): SolveSettings;
export function useSolve<T>(pick: (solve: SolveSettings) => T): T;
export function useSolve(pick: (solve: SolveSettings) => unknown = itself): unknown {
  return useSheet((s) => pick(solveOf(s.settings)));
}

/** The same of the variant that the sheet began with. */
export function useSolveBase(): SolveSettings;
export function useSolveBase<T>(pick: (solve: SolveSettings) => T): T;
export function useSolveBase(pick: (solve: SolveSettings) => unknown = itself): unknown {
  return useSheet((s) => pick(solveOf(s.base)));
}

/** What the sheet changes against its variant. */
export function useEdits(): readonly Difference[] {
  const base = useSheet((s) => s.base);
  const settings = useSheet((s) => s.settings);
  return useMemo(() => settingsDifferences(base, settings), [base, settings]);
}
