import type { FirstSight } from '@vaquero/contracts';
import { authorInWords, counted } from '@vaquero/core';
import { day, size } from '../parts/words.ts';

/** What is at a repository, before a project is made of it: its newest commit, its size, its languages. */
export function FirstSightShown({
  sight: { head, files, bytes, languages },
}: {
  readonly sight: FirstSight;
}) {
  return (
    <dl className="grid grid-cols-[7rem_1fr] gap-y-0.5 max-sm:grid-cols-1">
      <dt className="text-ink-2">Newest commit</dt>
      <dd>
        <code>{head.commit.slice(0, 7)}</code> {head.subject}, by {authorInWords(head)},{' '}
        {day(head.at)}
      </dd>
      <dt className="text-ink-2">It holds</dt>
      <dd>
        {counted(files, 'file')}, {size(bytes)}
      </dd>
      <dt className="text-ink-2">Written in</dt>
      <dd>
        {languages.length === 0
          ? 'nothing that is known here as a language'
          : languages.map(({ name, percent }) => `${name} ${percent} %`).join(', ')}
      </dd>
    </dl>
  );
}
