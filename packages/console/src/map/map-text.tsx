import { autocompletion, type CompletionContext, completionKeymap } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { yaml } from '@codemirror/lang-yaml';
import { linter, lintGutter } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
import { drawSelection, EditorView, keymap, lineNumbers } from '@codemirror/view';
import { mapKeys, readNewMap } from '@vaquero/contracts';
import { roles } from '@vaquero/core';
import { useEffect, useRef } from 'react';

/** Words that keys take. */
const values = ['by-itself', 'on-word', 'finish', 'stop', 'nobody', ...roles];

/** Keys of the language, and the names of this map's refs. */
function complete(names: readonly string[]) {
  return (context: CompletionContext) => {
    const word = context.matchBefore(/[\w/-]*/);
    if (word === null || (word.from === word.to && !context.explicit)) return null;
    return {
      from: word.from,
      options: [
        ...mapKeys.map((label) => ({ label, apply: `${label}: `, type: 'keyword' })),
        ...[...values, ...names].map((label) => ({ label, type: 'text' })),
      ],
    };
  };
}

/** Faults of the text, each at its line and column. */
const faults = linter((view) => {
  const text = view.state.doc.toString();
  const read = readNewMap(text, 1, 'main');
  if (read.ok || read.refusal.code !== 'map-invalid') return [];
  return read.refusal.faults.map(({ line, column, path, message }) => {
    const at = view.state.doc.line(Math.min(line ?? 1, view.state.doc.lines));
    const from = Math.min(at.from + (column ?? 1) - 1, at.to);
    return { from, to: at.to, severity: 'error' as const, message: `${path} ${message}`.trim() };
  });
});

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

/** The map as text, with completion and faults while typing. Tab leaves it. */
export function MapText({
  text,
  names,
  isReadOnly,
  onChange,
}: {
  readonly text: string;
  readonly names: readonly string[];
  readonly isReadOnly: boolean;
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
          faults,
          autocompletion({ override: [complete(names)] }),
          keymap.of([...completionKeymap, ...historyKeymap, ...defaultKeymap]),
          look,
          EditorState.readOnly.of(isReadOnly),
          EditorView.contentAttributes.of({ 'aria-label': 'The map as text' }),
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
