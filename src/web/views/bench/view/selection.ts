import { create } from 'zustand';

/** What of the scene is worked on: its handles stand in the viewport, its fields are open on the board. */
export type Selection = { readonly group: 'sources' | 'solids' | 'fields'; readonly index: number } | null;

export const useSelection = create<{ readonly selection: Selection; readonly select: (selection: Selection) => void }>((set) => ({
  selection: null,
  select: (selection) => {
    set({ selection });
  },
}));
