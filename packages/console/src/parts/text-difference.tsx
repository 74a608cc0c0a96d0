import type { ComparedLine } from '@vaquero/core';

const marks = { same: ' ', added: '+', removed: '−', gap: '…' } as const;
const tones = { same: 'text-ink-2', added: 'text-good', removed: 'text-bad', gap: 'text-ink-3' };
const said = { same: '', added: 'added: ', removed: 'removed: ', gap: 'lines left out' };

/** Two texts compared line by line: a mark as well as a colour tells what is new and what is gone. */
export function TextDifference({ lines }: { readonly lines: readonly ComparedLine[] }) {
  return (
    <ol className="overflow-x-auto border border-rule bg-sheet px-2 py-1 font-mono text-small">
      {lines.map(({ is, text }, place) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines repeat, and the list is never edited in place.
        <li key={place} className={`whitespace-pre-wrap [overflow-wrap:anywhere] ${tones[is]}`}>
          <span aria-hidden="true">{marks[is]} </span>
          <span className="sr-only">{said[is]}</span>
          {text}
        </li>
      ))}
    </ol>
  );
}
