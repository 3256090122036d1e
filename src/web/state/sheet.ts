import { useMemo } from 'react';
import { create } from 'zustand';
import { type Difference, type Settings, differences, settingsSchema } from '#core/shot';
import type { VariantDto } from '#protocol';
import { api, ApiError } from './api';
import { say } from './notice';
import { queryClient } from './queries';

/** The settings on the sheet: the variant's, or its draft's, with the way back. */
export interface SheetState {
  readonly variantId: string | null;
  readonly base: Settings;
  readonly settings: Settings;
  readonly revision: number;
  readonly undo: readonly Settings[];
  readonly redo: readonly Settings[];
  /** Edits that the server does not have yet. */
  readonly unsaved: boolean;
  open: (variant: VariantDto) => void;
  /** Changes settings; refused (with a notice) when the result is not valid. */
  edit: (change: (settings: Settings) => Settings) => boolean;
  stepBack: () => void;
  stepForward: () => void;
  /** Resolves when the server has everything. */
  flush: () => Promise<void>;
}

const SAVE_AFTER = 200;
const UNDO_DEPTH = 200;
const empty = settingsSchema.parse({});

let timer: ReturnType<typeof setTimeout> | undefined;
let saving: Promise<void> = Promise.resolve();

export const useSheet = create<SheetState>((set, get) => {
  const save = (): Promise<void> => {
    clearTimeout(timer);
    saving = saving.then(async () => {
      const { variantId, settings, revision, unsaved } = get();
      if (variantId === null || !unsaved) return;
      set({ unsaved: false });
      try {
        const { draft } = await api.saveDraft(variantId, settings, revision);
        if (get().variantId === variantId) set({ revision: draft?.revision ?? 0 });
      } catch (error) {
        if (error instanceof ApiError && error.tag === 'conflict') {
          say('warning', 'This draft was edited in another window; here is the newer one.');
          set({ variantId: null, undo: [], redo: [] });
          await queryClient.invalidateQueries({ queryKey: ['shot'] });
        } else {
          set({ unsaved: true });
          say('error', `Not saved: ${error instanceof Error ? error.message : String(error)}`);
        }
      }
    });
    return saving;
  };
  const put = (settings: Settings, history: Pick<SheetState, 'undo' | 'redo'>): void => {
    set({ settings, unsaved: true, ...history });
    clearTimeout(timer);
    timer = setTimeout(() => void save(), SAVE_AFTER);
  };
  return {
    variantId: null,
    base: empty,
    settings: empty,
    revision: 0,
    undo: [],
    redo: [],
    unsaved: false,
    open(variant) {
      const now = get();
      const revision = variant.draft?.revision ?? 0;
      if (now.variantId === variant.id) {
        // Our own saves come back too; only what is newer than ours replaces the sheet.
        if (now.unsaved || revision <= now.revision) {
          if (now.base !== variant.settings) set({ base: variant.settings });
          if (!variant.draft && now.revision > 0 && !now.unsaved) {
            set({ settings: variant.settings, revision: 0, undo: [], redo: [] });
          }
          return;
        }
        say('info', 'The draft was changed elsewhere; here is the newer one.');
      }
      set({
        variantId: variant.id,
        base: variant.settings,
        settings: variant.draft?.settings ?? variant.settings,
        revision,
        undo: [],
        redo: [],
        unsaved: false,
      });
    },
    edit(change) {
      const { settings, undo } = get();
      const result = settingsSchema.safeParse(change(settings));
      if (!result.success) {
        const first = result.error.issues[0];
        say('error', first ? `Not changed: ${first.message}` : 'Not changed.');
        return false;
      }
      put(result.data, { undo: [...undo, settings].slice(-UNDO_DEPTH), redo: [] });
      return true;
    },
    stepBack() {
      const { undo, redo, settings } = get();
      const last = undo[undo.length - 1];
      if (last) put(last, { undo: undo.slice(0, -1), redo: [...redo, settings] });
    },
    stepForward() {
      const { undo, redo, settings } = get();
      const next = redo[redo.length - 1];
      if (next) put(next, { redo: redo.slice(0, -1), undo: [...undo, settings] });
    },
    async flush() {
      await save();
    },
  };
});

// Leaving the page keeps what was just typed.
if (typeof window !== 'undefined') {
  window.addEventListener('pagehide', () => {
    const { variantId, settings, revision, unsaved } = useSheet.getState();
    if (variantId === null || !unsaved) return;
    void fetch(`/api/variants/${variantId}/draft`, {
      method: 'PUT',
      keepalive: true,
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ settings, revision }),
    });
  });
}

/** What the sheet changes against its variant. */
export function useEdits(): readonly Difference[] {
  const base = useSheet((s) => s.base);
  const settings = useSheet((s) => s.settings);
  return useMemo(() => differences(base, settings), [base, settings]);
}
