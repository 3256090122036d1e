import { autocompletion, completionKeymap, completionStatus, type Completion, type CompletionContext } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { type Diagnostic, linter, forceLinting } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
import { EditorView, keymap } from '@codemirror/view';
import Box from '@mui/material/Box';
import { type ReactElement, useEffect, useRef } from 'react';
import { FUNCTIONS, VARIABLES } from '#core/moves';
import { useColours } from '#web/ui';

/** Paths of all numbers of some settings, as an expression reads them: `matter.lift`, `sources[0].heat`. */
export function numberPaths(value: unknown, path = ''): string[] {
  if (typeof value === 'number') return [path];
  if (value === null || typeof value !== 'object') return [];
  return Object.entries(value).flatMap(([key, inner]) =>
    key === 'moves' ? [] : numberPaths(inner, Array.isArray(value) ? `${path}[${key}]` : path === '' ? key : `${path}.${key}`),
  );
}

const KNOWN: readonly Completion[] = [
  ...VARIABLES.map((label): Completion => ({ label, type: 'variable' })),
  ...Object.keys(FUNCTIONS).map((label): Completion => ({ label, type: 'function', apply: `${label}(` })),
];

/** What a mistake is about: from the column that it names to the end of the word there. */
function placeOf(text: string, mistake: string): { readonly from: number; readonly to: number } {
  const column = Number(/column (\d+)/i.exec(mistake)?.[1] ?? 1);
  const from = Math.max(0, Math.min(text.length - 1, column - 1));
  const word = /^[\w.[\]]+/.exec(text.slice(from))?.[0] ?? '';
  return { from, to: Math.max(from, Math.min(text.length, from + Math.max(1, word.length))) };
}

interface ExpressionFieldProps {
  readonly label: string;
  readonly value: string;
  /** Of the present text; null: it can be read. */
  readonly mistake: string | null;
  /** Other settings that can be read. */
  readonly paths: readonly string[];
  readonly onChange: (text: string) => void;
  readonly onBlur: () => void;
}

/** One line of an expression: names are completed, a mistake is underlined where it is. */
export function ExpressionField({ label, value, mistake, paths, onChange, onBlur }: ExpressionFieldProps): ReactElement {
  const c = useColours();
  const box = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const latest = useRef({ mistake, paths, onChange, onBlur });
  latest.current = { mistake, paths, onChange, onBlur };
  useEffect(() => {
    if (!box.current) return undefined;
    const complete = (context: CompletionContext): { from: number; options: readonly Completion[]; validFor: RegExp } | null => {
      const word = context.matchBefore(/[\w.[\]]+/);
      if (!word && !context.explicit) return null;
      const settings = latest.current.paths.map((path): Completion => ({ label: path, type: 'property' }));
      return { from: word?.from ?? context.pos, options: [...KNOWN, ...settings], validFor: /^[\w.[\]]*$/ };
    };
    const lint = (editor: EditorView): Diagnostic[] => {
      const { mistake: message } = latest.current;
      const text = editor.state.doc.toString();
      return message === null || text === '' ? [] : [{ ...placeOf(text, message), severity: 'error', message }];
    };
    const made = new EditorView({
      parent: box.current,
      state: EditorState.create({
        doc: value,
        selection: { anchor: value.length },
        extensions: [
          history(),
          // One line: Enter does nothing, what is pasted with breaks becomes one.
          EditorState.transactionFilter.of((t) => (t.newDoc.lines > 1 ? [] : t)),
          EditorView.clipboardInputFilter.of((text) => text.trim().replaceAll(/\s*\n\s*/g, ' ')),
          // Escape closes the list of names, not the dialog around it.
          EditorView.domEventHandlers({
            keydown: (event, editor) => {
              if (event.key === 'Escape' && completionStatus(editor.state) !== null) event.stopPropagation();
              return false;
            },
          }),
          autocompletion({ override: [complete], icons: false }),
          linter(lint, { delay: 0 }),
          keymap.of([...completionKeymap, ...defaultKeymap, ...historyKeymap]),
          EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false' }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) latest.current.onChange(update.state.doc.toString());
            if (update.focusChanged && !update.view.hasFocus) latest.current.onBlur();
          }),
        ],
      }),
    });
    view.current = made;
    made.focus();
    return () => {
      made.destroy();
      view.current = null;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- made once; what changes is read from `latest`
  }, []);
  useEffect(() => {
    const editor = view.current;
    if (!editor) return;
    const shown = editor.state.doc.toString();
    if (shown !== value) editor.dispatch({ changes: { from: 0, to: shown.length, insert: value } });
    forceLinting(editor);
  }, [value, mistake]);
  return (
    <Box
      ref={box}
      sx={{
        border: `1px solid ${mistake === null ? c.line : c.failed}`,
        borderRadius: 1,
        bgcolor: c.page,
        '&:focus-within': { borderColor: mistake === null ? c.selected : c.failed },
        '& .cm-editor': { outline: 'none', fontSize: 13.5 },
        '& .cm-scroller': { fontFamily: "'JetBrains Mono Variable', monospace", lineHeight: 1.5 },
        '& .cm-content': { py: 1, caretColor: c.text },
        '& .cm-line': { px: 1.25 },
        '& .cm-tooltip': { bgcolor: c.raised, color: c.text, border: `1px solid ${c.line}`, borderRadius: 1 },
        '& .cm-tooltip-autocomplete > ul > li[aria-selected]': { bgcolor: c.primary, color: '#fff' },
      }}
    />
  );
}
