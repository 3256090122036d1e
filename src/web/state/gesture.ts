/**
 * A hand that holds a pointer down: everything that is changed meanwhile is one change to whoever undoes it, however many steps the drag had.
 * 0: no hand.
 */
let held = 0;
let count = 0;

export const gesture = (): number => held;

if (typeof window !== 'undefined') {
  const begin = (): void => {
    held = ++count;
  };
  // After the handlers of what was let go: what they change still belongs to the drag.
  const end = (): void => {
    const ended = held;
    setTimeout(() => {
      if (held === ended) held = 0;
    });
  };
  window.addEventListener('pointerdown', begin, true);
  window.addEventListener('pointerup', end, true);
  window.addEventListener('pointercancel', end, true);
}
