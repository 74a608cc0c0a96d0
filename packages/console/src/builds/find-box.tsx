import { useQuery } from '@tanstack/react-query';
import type { BuildRow, buildRoutes } from '@vaquero/contracts';
import { type RefObject, useDeferredValue, useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { troubleOf } from '../http/api.ts';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { ComboBox } from '../parts/combo-box.tsx';
import { moment } from '../parts/words.ts';
import { foundBuilds } from './found-builds.ts';

/** Finds a build by what one knows of it, and an instant by its time; `/` comes here from anywhere. */
export function FindBox({ project }: { readonly project: string }) {
  const [text, setText] = useState('');
  const input = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const asked = useDeferredValue(text);
  const { data, error } = useQuery(foundBuilds(project, asked));
  useSlash(input);
  const at = readTime(text);
  const builds = text.trim() === '' ? [] : (data?.builds ?? []);
  const offers = [
    ...(at === null ? [] : [{ key: `/p/${project}?at=${at}`, says: <InstantFound at={at} /> }]),
    ...builds.map((build) => ({
      key: `/p/${project}/builds/${build.number}`,
      says: <FoundBuild build={build} />,
    })),
  ];
  const isNone = offers.length === 0 && error === null && asked === text && data !== undefined;
  return (
    <search className="max-sm:hidden">
      <ComboBox
        label="Find a build by number, commit, digest, brand, subject or author, or an instant by its time"
        placeholder="Find ( / )"
        inputRef={input}
        className="h-7 w-44"
        text={text}
        onText={setText}
        offers={offers}
        onPick={(to) => {
          input.current?.blur();
          void navigate(to);
        }}
        below={
          <>
            {error === null ? null : (
              <p role="alert" className="px-3 py-1 text-bad">
                {troubleOf(error).what}
              </p>
            )}
            {isNone ? (
              <p role="status" className="px-3 py-1 text-ink-2">
                No build has “{text}” as number, commit, digest, brand, subject or author.
              </p>
            ) : null}
          </>
        }
      />
    </search>
  );
}

/** The key `/` leads to a field from anywhere but where one writes. */
function useSlash(input: RefObject<HTMLInputElement | null>): void {
  useEffect(() => {
    const come = (event: KeyboardEvent): void => {
      const isTyping =
        event.target instanceof HTMLElement &&
        event.target.closest('input, textarea, select, [role=dialog]') !== null;
      if (event.key !== '/' || isTyping || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      input.current?.focus();
    };
    window.addEventListener('keydown', come);
    return () => window.removeEventListener('keydown', come);
  }, [input]);
}

function InstantFound({ at }: { readonly at: string }) {
  return (
    <>
      What was live at <b className="font-[650]">{at.replace('T', ' ').replace(':00Z', ' UTC')}</b>
    </>
  );
}

type Found = ReturnType<typeof buildRoutes.findBuildsRoute.reply.parse>['builds'][number];

function FoundBuild({ build }: { readonly build: Found & BuildRow }) {
  return (
    <span className="grid grid-cols-[18px_2.25rem_1fr_auto] items-baseline gap-x-2">
      {build.artifact === null ? (
        <Unbranded size={14} />
      ) : (
        <BrandMark digest={build.artifact.digest} size={14} className="self-center" />
      )}
      <b className="font-[650]">{build.number}</b>
      <span className="said truncate">{build.commit.subject}</span>
      <span className="text-small text-ink-2">
        {build.servedBy.length > 0 ? (
          <span className="text-good">live in {build.servedBy.join(' and ')}</span>
        ) : build.state === 'passed' ? (
          moment(build.queuedAt, Date.now() as never)
        ) : (
          build.state
        )}
      </span>
    </span>
  );
}

/** A day and a time as people write them (`2026-11-20 14:52`, the time may be missing), as it stands in an address. */
function readTime(text: string): string | null {
  const said = /^\s*(\d{4}-\d\d-\d\d)(?:[ T](\d\d:\d\d))?\s*Z?\s*$/.exec(text);
  if (said === null) return null;
  const at = `${said[1]}T${said[2] ?? '00:00'}:00Z`;
  return Number.isNaN(Date.parse(at)) ? null : at;
}
