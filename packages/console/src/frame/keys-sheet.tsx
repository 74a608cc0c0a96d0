import { useState } from 'react';
import { Sheet } from '../parts/sheet.tsx';
import { pages } from './foot-index.tsx';
import { useKeys } from './use-keys.ts';

const further = [
  ['/', 'look for a build, a page or an instant'],
  ['← →', 'move the hand over the lanes; Enter holds it there, Escape lets go'],
  ['+ −', 'show less or more time on the lanes; 0 shows seven days'],
  ['PgUp PgDn', 'show what was earlier or later'],
  ['Esc', 'close what is open'],
  ['?', 'this list'],
] as const;

/** The keys, listed when `?` is pressed. */
export function KeysSheet() {
  const [open, setOpen] = useState(false);
  useKeys((key) => {
    if (key === '?') setOpen(true);
  });
  return (
    <Sheet
      open={open}
      onOpenChange={setOpen}
      title="Keys"
      says="They are heard while nothing is being written."
      acts={null}
    >
      <dl className="grid grid-cols-[7rem_1fr] gap-y-1">
        {pages.map(({ letter, word }) => (
          <Key key={letter} name={letter.toLowerCase()} does={`${letter}${word}`} />
        ))}
        {further.map(([name, does]) => (
          <Key key={name} name={name} does={does} />
        ))}
      </dl>
    </Sheet>
  );
}

function Key({ name, does }: { readonly name: string; readonly does: string }) {
  return (
    <>
      <dt>
        <kbd className="border border-control px-1.5 font-mono text-small">{name}</kbd>
      </dt>
      <dd>{does}</dd>
    </>
  );
}
