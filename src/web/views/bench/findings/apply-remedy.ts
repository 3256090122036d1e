import type { Remedy } from '#core/checks';
import { applyEdits, solveOf } from '#core/shot';
import { say, useSheet } from '#web/state';

/** Puts a remedy on the sheet; one step of undo. */
export function applyRemedy(remedy: Remedy): void {
  const { editSolve, settings } = useSheet.getState();
  const changed = applyEdits(solveOf(settings), remedy.edits);
  if (!changed) {
    say('error', `Not changed: ${remedy.title} does not go with the other settings.`);
    return;
  }
  if (editSolve(() => changed)) {
    say('success', `On the draft: ${remedy.title}`, { title: 'Undo', run: useSheet.getState().stepBack });
  }
}
