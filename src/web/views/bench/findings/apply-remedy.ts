import type { Remedy } from '#core/checks';
import { applyEdits } from '#core/shot';
import { say, useSheet } from '#web/state';

/** Puts a remedy on the sheet; one step of undo. */
export function applyRemedy(remedy: Remedy): void {
  const { edit, settings } = useSheet.getState();
  const changed = applyEdits(settings, remedy.edits);
  if (!changed) {
    say('error', `Not changed: ${remedy.title} does not go with the other settings.`);
    return;
  }
  if (edit(() => changed)) {
    say('success', `On the draft: ${remedy.title}`, { title: 'Undo', run: useSheet.getState().stepBack });
  }
}
