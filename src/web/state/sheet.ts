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
  /** Of the draft, and of the shot's fields, as the server has them. */
  readonly revision: number;
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
  /** Resolves when the server has everything. */
  flush: () => Promise<void>;
}

const SAVE_AFTER = 200;
const UNDO_DEPTH = 500;
const empty: Sheet = { settings: settingsSchema.parse({}), fields: shotFieldsSchema.parse({ name: 'none' }) };

let timer: ReturnType<typeof setTimeout> | undefined;
let saving: Promise<void> = Promise.resolve();
/** Fields as the server has them. */
let savedFields = '';
/** A draft is on its way to the server: the next one follows it. */
let draftOnItsWay = false;
/** The drag that made the last step: what it changes more is the same step. */
let stepGesture = 0;

const titleOf = (from: Sheet, to: Sheet): string => {
  const first = settingsDifferences(from.settings, to.settings)[0];
  return first ? showDifference(first) : 'the shot';
};

export const useSheet = create<SheetState>((set, get) => {
  const saveDraft = async (variantId: string): Promise<void> => {
    const { settings, revision } = get();
    draftOnItsWay = true;
    try {
      const { draft } = await api.saveDraft(variantId, settings, revision);
      if (get().variantId === variantId) set({ revision: draft?.revision ?? 0 });
    } catch (error) {
      if (!(error instanceof ApiError) || error.tag !== 'conflict') throw error;
      say('warning', 'This draft was edited in another window; here is the newer one.');
      set({ variantId: null, undo: [], redo: [] });
      await queryClient.invalidateQueries({ queryKey: ['shot'] });
    } finally {
      draftOnItsWay = false;
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
  const save = (): Promise<void> => {
    clearTimeout(timer);
    saving = saving.then(async () => {
      const { shotId, variantId, fields, unsaved } = get();
      if (variantId === null || shotId === null || !unsaved) return;
      set({ unsaved: false });
      try {
        const text = canonicalJson(fields);
        if (text !== savedFields) await saveFields(shotId, fields, text);
        await saveDraft(variantId);
      } catch (error) {
        set({ unsaved: true });
        say('error', `Not saved: ${error instanceof Error ? error.message : String(error)}`);
      }
    });
    return saving;
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
    revision: 0,
    fieldsRevision: 0,
    undo: [],
    redo: [],
    unsaved: false,
    open(shot, variant) {
      const state = get();
      const revision = variant.draft?.revision ?? 0;
      if (state.variantId === variant.id) {
        // Our own saves come back too; only what is newer than ours replaces the sheet.
        if (state.base !== variant.settings) set({ base: variant.settings });
        if (state.unsaved) return;
        const text = canonicalJson(shot.fields);
        if (text !== savedFields || shot.revision !== state.fieldsRevision) {
          savedFields = text;
          set({ fields: shot.fields, fieldsRevision: shot.revision });
        }
        if (revision <= state.revision) {
          if (!variant.draft && state.revision > 0) set({ settings: variant.settings, revision: 0, undo: [], redo: [] });
          return;
        }
        say('info', 'The draft was changed elsewhere; here is the newer one.');
      }
      savedFields = canonicalJson(shot.fields);
      set({
        shotId: shot.id,
        variantId: variant.id,
        base: variant.settings,
        settings: variant.draft?.settings ?? variant.settings,
        fields: shot.fields,
        fieldsRevision: shot.revision,
        revision,
        undo: [],
        redo: [],
        unsaved: false,
      });
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
  };
});

// Leaving the page keeps what was just typed.
if (typeof window !== 'undefined') {
  window.addEventListener('pagehide', () => {
    const { shotId, variantId, settings, fields, revision, fieldsRevision, unsaved } = useSheet.getState();
    if (shotId === null || variantId === null || !unsaved) return;
    const put = (path: string, body: unknown): void => {
      void fetch(path, {
        method: 'PUT',
        keepalive: true,
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(body),
      });
    };
    put(`/api/variants/${variantId}/draft`, { settings, revision: revision + (draftOnItsWay ? 1 : 0) });
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
