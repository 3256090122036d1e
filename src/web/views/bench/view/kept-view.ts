import type { View } from '#web/viewport';

// The camera stays where it was when another run, a comparison or three values are looked at: kept for each shot while the page is open.
const views = new Map<string, View>();

export const keptView = (shotId: string): View | null => views.get(shotId) ?? null;
export const keepView = (shotId: string, view: View): void => {
  views.set(shotId, view);
};
