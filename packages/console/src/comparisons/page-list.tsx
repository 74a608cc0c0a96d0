import type { ComparisonReply } from '@vaquero/contracts';
import { addressOfPage as addressOf, counted } from '@vaquero/core';
import { useState } from 'react';

import { PageLines } from './page-lines.tsx';

/** The pages that say otherwise, and what the one that is chosen says. */
export function PageList({ comparison }: { readonly comparison: ComparisonReply }) {
  const { pages, everywhere, pageCounts } = comparison;
  const [chosen, choose] = useState(0);
  const shown = pages[chosen];
  if (pages.length === 0 && everywhere.lines.length === 0)
    return (
      <p className="border-t border-rule py-1 text-ink-2">
        {pageCounts.changed === 0
          ? 'No page differs.'
          : `${counted(pageCounts.changed, 'page')} differ in bytes, and say the same.`}
      </p>
    );
  return (
    <div className="grid gap-x-4 border-t border-rule sm:grid-cols-[minmax(9rem,1fr)_minmax(0,3fr)]">
      <ul className="max-h-96 overflow-y-auto">
        {pages.map(({ path, how, lineCount }, place) => (
          <li key={path} className="border-b border-rule">
            <button
              type="button"
              aria-pressed={place === chosen}
              onClick={() => choose(place)}
              className="flex w-full items-baseline gap-2 border-l-[3px] border-transparent py-1 pl-2 text-left aria-pressed:border-thread aria-pressed:bg-sheet"
            >
              <code className="min-w-0 flex-1 [overflow-wrap:anywhere]">{addressOf(path)}</code>
              <span className="whitespace-nowrap text-small text-ink-2">
                {how === 'added' ? 'new, ' : ''}
                {counted(lineCount, 'line')}
              </span>
            </button>
          </li>
        ))}
        <Rest counts={pageCounts} shown={pages.length} />
      </ul>
      <div className="py-1">
        {everywhere.lines.length === 0 ? null : (
          <div className="mb-2 border-b border-rule pb-2">
            <p className="text-small text-ink-2">On {everywhere.pages} pages, said once:</p>
            <PageLines lines={everywhere.lines} />
          </div>
        )}
        {shown === undefined ? null : (
          <section aria-label={`What ${addressOf(shown.path)} says otherwise`}>
            <PageLines lines={shown.lines} />
          </section>
        )}
      </div>
    </div>
  );
}

function Rest({
  counts: { otherText, sameText, unread },
  shown,
}: {
  readonly counts: ComparisonReply['pageCounts'];
  readonly shown: number;
}) {
  const said = [
    ...(otherText > shown ? [`${otherText - shown} more say otherwise`] : []),
    ...(sameText > 0 ? [`${sameText} say the same in other bytes`] : []),
    ...(unread > 0
      ? [`${unread} were not read: there are too many, or they are too large or too slow to read`]
      : []),
  ];
  return said.length === 0 ? null : (
    <li className="py-1 text-small text-ink-2">{said.join('; ')}.</li>
  );
}
