import { useQuery } from '@tanstack/react-query';
import type { MapVersionsReply } from '@vaquero/contracts';
import { compareTexts } from '@vaquero/core';
import { Glyph } from '../parts/glyph.tsx';
import { TextDifference } from '../parts/text-difference.tsx';
import { moment } from '../parts/words.ts';
import { mapVersionsOf } from './map-of.ts';

const mostShown = 5;

/** The versions of the map, the newest first; each may be taken as a draft. */
export function MapVersions({
  project,
  current,
  take,
}: {
  readonly project: string;
  readonly current: number;
  /** Takes a text as the draft; null for who may not set one. */
  readonly take: ((text: string) => void) | null;
}) {
  const { data, dataUpdatedAt } = useQuery(mapVersionsOf(project));
  const versions = data?.versions ?? [];
  return (
    <section aria-label="Versions">
      <h2 className="pb-1 font-[650]">Versions</h2>
      <ol>
        {versions.slice(0, mostShown).map(({ version, by, at, reason, text, changes }, place) => (
          <li key={version} className="grid grid-cols-[1.5rem_1fr] border-t border-rule py-1">
            <b className="font-[650]">{version}</b>
            <span>
              <span className="said block">{reason ?? 'As the project was made.'}</span>
              <span className="text-ink-2">
                {by ?? 'Vaquero'}, {moment(at, dataUpdatedAt)}
                {version === current ? (
                  <>
                    ; <Glyph name="live" /> in force
                  </>
                ) : take === null ? null : (
                  <>
                    ;{' '}
                    <button
                      type="button"
                      className="text-action underline"
                      onClick={() => take(text)}
                    >
                      take it as draft
                    </button>
                  </>
                )}
              </span>
              <Changes changes={changes} before={versions[place + 1]?.text} after={text} />
            </span>
          </li>
        ))}
      </ol>
      {versions.length > mostShown ? (
        <p className="text-ink-2">and {versions.length - mostShown} older</p>
      ) : null}
    </section>
  );
}

/** What a version says otherwise than the one before it: in words, and as text. */
function Changes({
  changes,
  before,
  after,
}: Pick<MapVersionsReply['versions'][number], 'changes'> & {
  readonly before: string | undefined;
  readonly after: string;
}) {
  if (before === undefined) return null;
  return (
    <details>
      <summary className="cursor-pointer text-ink-2">
        {changes.map(({ rule, how }) => `${rule} ${how}`).join(', ') || 'the rules stay'}
      </summary>
      <TextDifference lines={compareTexts(before, after)} />
    </details>
  );
}
