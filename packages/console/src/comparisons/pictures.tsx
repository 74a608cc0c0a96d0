import type { PicturesSeen } from '@vaquero/contracts';
import { addressOfPage, picturesInWords, pixelsInWords } from '@vaquero/core';
import { useState } from 'react';

type Page = PicturesSeen['pages'][number];
type Side = Page['sides'][number];

/** How pages look before and after, and where they differ; words where there are no pictures. */
export function Pictures({
  project,
  pictures,
  builds,
}: {
  readonly project: string;
  readonly pictures: PicturesSeen | null;
  readonly builds: { readonly before: number; readonly after: number };
}) {
  if (pictures === null) return null;
  const { state, why, pages } = pictures;
  const shown = pages.filter(({ sides, why: reason }) => sides.length > 0 || reason !== null);
  return (
    <section aria-label="Pictures" className="mt-2 border-t border-rule pt-1">
      <p
        className="text-ink-2"
        role={state === 'wanted' || state === 'taking' ? 'status' : undefined}
      >
        Pictures: {picturesInWords(state, why, pages)}.
      </p>
      {pictures.id === null || shown.length === 0 ? null : (
        <ul>
          {shown.map((page) => (
            <PagePictures
              key={page.place}
              at={`/api/projects/${encodeURIComponent(project)}/pictures/${pictures.id}/${page.place}`}
              page={page}
              builds={builds}
            />
          ))}
        </ul>
      )}
    </section>
  );
}

const names: Readonly<Record<Side, string>> = {
  before: 'Before',
  after: 'After',
  difference: 'What differs',
};

function PagePictures({
  at,
  page,
  builds,
}: {
  readonly at: string;
  readonly page: Page;
  readonly builds: { readonly before: number; readonly after: number };
}) {
  const { before, after, share, sides, why } = page;
  const [side, choose] = useState<Side>(sides.includes('after') ? 'after' : (sides[0] ?? 'before'));
  const address = addressOfPage(after ?? before ?? '');
  const how =
    why !== null
      ? `could not be pictured: ${why}`
      : before === null
        ? 'new'
        : after === null
          ? 'gone'
          : pixelsInWords(share ?? 0);
  const of: Readonly<Record<Side, string>> = {
    before: `as build ${builds.before} has it`,
    after: `as build ${builds.after} has it`,
    difference: `what differs between builds ${builds.before} and ${builds.after}`,
  };
  return (
    <li className="border-b border-rule py-1">
      <details>
        <summary className="cursor-pointer">
          <code className="[overflow-wrap:anywhere]">{address}</code>{' '}
          <span className="text-ink-2">{how}</span>
        </summary>
        {sides.length === 0 ? null : (
          <div className="pt-1">
            <SideChoice sides={sides} side={side} choose={choose} address={address} />
            <img
              src={`${at}/${side}`}
              alt={`${address}, ${of[side]}${side === 'difference' ? `: ${how}` : ''}`}
              className="mt-1 w-full border border-rule"
              loading="lazy"
            />
          </div>
        )}
      </details>
    </li>
  );
}

function SideChoice({
  sides,
  side,
  choose,
  address,
}: {
  readonly sides: readonly Side[];
  readonly side: Side;
  readonly choose: (side: Side) => void;
  readonly address: string;
}) {
  return (
    <fieldset className="flex flex-wrap gap-x-2">
      <legend className="sr-only">Which picture of {address}</legend>
      {sides.map((one) => (
        <button
          key={one}
          type="button"
          aria-pressed={one === side}
          onClick={() => choose(one)}
          className="min-h-6 border-b-[3px] border-transparent px-1 aria-pressed:border-thread aria-pressed:bg-sheet"
        >
          {names[one]}
        </button>
      ))}
    </fieldset>
  );
}
