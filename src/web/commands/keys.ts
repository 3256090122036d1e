import { useEffect } from 'react';
import { commands } from './registry';

/** A second key of a sequence must follow within this time. */
const SEQUENCE = 1200;

/** `Shift+t`, `Ctrl+k`, `?` from a key event. */
function nameOf(event: KeyboardEvent): string {
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const letter = /^[a-z]$/.test(key);
  const parts = [event.ctrlKey || event.metaKey ? 'Ctrl' : '', letter && event.shiftKey ? 'Shift' : '', key];
  return parts.filter((p) => p !== '').join('+');
}

/** Keys with Ctrl that mean something to a text that is being written: its own undo, above all. */
const EDITING = new Set(['z', 'y', 'a', 'c', 'v', 'x', 'b', 'i', 'ArrowLeft', 'ArrowRight', 'Backspace', 'Delete', 'Home', 'End']);

const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName));

/** Dialogs, menus and lists lie over the page, and have the keys while they do. */
const OVER = '[role=dialog], [role=alertdialog], [role=menu], [role=listbox], .MuiModal-root';
/** Controls that Space presses, picks or switches. */
const PRESSED =
  'button, a, summary, [role=button], [role=option], [role=tab], [role=checkbox], [role=switch], [role=radio], [role=treeitem], [role=combobox]';

const within = (target: EventTarget | null, selector: string): boolean => target instanceof Element && target.closest(selector) !== null;

/** Listens for every registered command's keys. */
export function useCommandKeys(): void {
  useEffect(() => {
    let first: { key: string; at: number } | null = null;
    const onKey = (event: KeyboardEvent): void => {
      const command = event.ctrlKey || event.metaKey;
      if (typing(event.target) && (!command || EDITING.has(event.key.length === 1 ? event.key.toLowerCase() : event.key))) return;
      if (event.defaultPrevented || within(event.target, OVER)) return;
      // A focused button is pressed with Space; it must not play too.
      if (event.key === ' ' && within(event.target, PRESSED)) return;
      const name = nameOf(event);
      const sequence = first && event.timeStamp - first.at < SEQUENCE ? `${first.key} ${name}` : null;
      first = { key: name, at: event.timeStamp };
      const found = commands.all().find((c) => c.keys !== null && (c.keys === sequence || c.keys === name));
      if (!found) return;
      event.preventDefault();
      first = null;
      found.run();
    };
    window.addEventListener('keydown', onKey);
    return () => {
      window.removeEventListener('keydown', onKey);
    };
  }, []);
}
