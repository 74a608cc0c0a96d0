import {
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  completionKeymap,
} from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { yaml } from '@codemirror/lang-yaml';
import { linter, lintGutter } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
import { drawSelection, EditorView, keymap, lineNumbers } from '@codemirror/view';
import { useEffect, useRef } from 'react';

/** What is wrong with a text, at its line and column, both from 1 on. */
export interface TextFault {
  readonly line: number | null;
  readonly column: number | null;
  readonly path: string;
  readonly message: string;
}

const look = EditorView.theme({
  '&': { border: '1px solid var(--rule)', background: 'var(--sheet)', fontSize: '0.8125rem' },
  '&.cm-focused': { outline: '2px solid var(--thread)', outlineOffset: '2px' },
  '.cm-scroller': { fontFamily: 'var(--font-mono)', lineHeight: '18px', minHeight: '13rem' },
  '.cm-gutters': { background: 'var(--well)', color: 'var(--ink-3)', border: 'none' },
  '.cm-content': { color: 'var(--ink)', caretColor: 'var(--ink)' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '.cm-tooltip': {
    background: 'var(--sheet)',
    color: 'var(--ink)',
    border: '1px solid var(--rule-2)',
  },
  '.cm-diagnostic-error': { borderLeftColor: 'var(--bad)', fontFamily: 'var(--font-sans)' },
});

/** Faults of the text, each at its line and column. */
function faultsBy(faultsIn: (text: string) => readonly TextFault[]) {
  return linter((view) =>
    faultsIn(view.state.doc.toString()).map(({ line, column, path, message }) => {
      const at = view.state.doc.line(Math.min(line ?? 1, view.state.doc.lines));
      const from = Math.min(at.from + (column ?? 1) - 1, at.to);
      return { from, to: at.to, severity: 'error' as const, message: `${path} ${message}`.trim() };
    }),
  );
}

/** A document in YAML, with completion and faults while typing. Tab leaves it. */
export function YamlText({
  label,
  text,
  isReadOnly,
  faultsIn,
  complete,
  onChange,
}: {
  readonly label: string;
  readonly text: string;
  readonly isReadOnly: boolean;
  readonly faultsIn: (text: string) => readonly TextFault[];
  readonly complete: (context: CompletionContext) => CompletionResult | null;
  readonly onChange: (text: string) => void;
}) {
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const told = useRef(onChange);
  useEffect(() => {
    told.current = onChange;
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once; what changes is told to it below.
  useEffect(() => {
    if (place.current === null) return undefined;
    const made = new EditorView({
      parent: place.current,
      state: EditorState.create({
        doc: text,
        extensions: [
          lineNumbers(),
          EditorView.lineWrapping,
          history(),
          drawSelection(),
          yaml(),
          lintGutter(),
          faultsBy(faultsIn),
          autocompletion({ override: [complete] }),
          keymap.of([...completionKeymap, ...historyKeymap, ...defaultKeymap]),
          look,
          EditorState.readOnly.of(isReadOnly),
          EditorView.contentAttributes.of({ 'aria-label': label }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) told.current(update.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = made;
    return () => made.destroy();
  }, [isReadOnly]);
  useEffect(() => {
    const now = view.current?.state.doc.toString();
    if (now !== undefined && now !== text)
      view.current?.dispatch({ changes: { from: 0, to: now.length, insert: text } });
  }, [text]);
  return <div ref={place} className="[&_.cm-editor]:w-full" />;
}
