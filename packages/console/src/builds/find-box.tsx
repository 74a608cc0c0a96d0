import { useQuery } from '@tanstack/react-query';
import type { BuildRow, buildRoutes } from '@vaquero/contracts';
import { type KeyboardEvent, useDeferredValue, useEffect, useId, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { troubleOf } from '../http/api.ts';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { moment } from '../parts/words.ts';
import { foundBuilds } from './found-builds.ts';

/**
 * Finds a build by what one knows of it, and an instant by its time: a combobox with a list below it.
 * Pattern: WAI-ARIA Authoring Practices, combobox with list autocomplete; `/` comes here from anywhere.
 */
export function FindBox({ project }: { readonly project: string }) {
  const [text, setText] = useState('');
  const [chosen, setChosen] = useState(0);
  const [isOpen, setOpen] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const list = useId();
  const navigate = useNavigate();
  const asked = useDeferredValue(text);
  const { data, error } = useQuery(foundBuilds(project, asked));
  const at = readTime(text);
  const builds = text.trim() === '' ? [] : (data?.builds ?? []);
  const choices = [
    ...(at === null ? [] : [{ key: 'time', to: `/p/${project}?at=${at}` }]),
    ...builds.map(({ number }) => ({ key: String(number), to: `/p/${project}/builds/${number}` })),
  ];
  const shown = isOpen && text.trim() !== '';
  useEffect(() => {
    const come = (event: globalThis.KeyboardEvent): void => {
      const isTyping =
        event.target instanceof HTMLElement &&
        event.target.closest('input, textarea, select, [role=dialog]') !== null;
      if (event.key !== '/' || isTyping || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      input.current?.focus();
    };
    window.addEventListener('keydown', come);
    return () => window.removeEventListener('keydown', come);
  }, []);
  const go = (to: string | undefined): void => {
    if (to === undefined) return;
    setOpen(false);
    setText('');
    input.current?.blur();
    void navigate(to);
  };
  const keys = (event: KeyboardEvent): void => {
    if (event.key === 'Escape') {
      setOpen(false);
      setText('');
      input.current?.blur();
    }
    if (event.key === 'Enter') go(choices[chosen]?.to);
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (step === 0 || choices.length === 0) return;
    event.preventDefault();
    setChosen((chosen + step + choices.length) % choices.length);
  };
  return (
    <search className="relative max-sm:hidden">
      <input
        ref={input}
        className="field h-7 w-44"
        role="combobox"
        aria-label="Find a build by number, commit, digest, brand, subject or author, or an instant by its time"
        aria-expanded={shown}
        aria-controls={list}
        aria-activedescendant={shown && choices.length > 0 ? `${list}-${chosen}` : undefined}
        aria-autocomplete="list"
        autoComplete="off"
        placeholder="Find ( / )"
        maxLength={200}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setChosen(0);
          setOpen(true);
        }}
        onBlur={() => setOpen(false)}
        onKeyDown={keys}
      />
      {shown ? (
        <div className="absolute right-0 top-full z-10 mt-0.5 w-[30rem] border border-rule-2 bg-sheet py-1">
          <div id={list} role="listbox" aria-label="Found" tabIndex={-1}>
            {choices.map(({ key }, index) => {
              const build = builds.find(({ number }) => String(number) === key);
              return (
                <Choice
                  key={key}
                  id={`${list}-${index}`}
                  isChosen={chosen === index}
                  pick={() => go(choices[index]?.to)}
                >
                  {build === undefined ? (
                    <>
                      What was live at{' '}
                      <b className="font-[650]">{at?.replace('T', ' ').replace(':00Z', ' UTC')}</b>
                    </>
                  ) : (
                    <FoundBuild build={build} />
                  )}
                </Choice>
              );
            })}
          </div>
          {error === null ? null : (
            <p role="alert" className="px-3 py-1 text-bad">
              {troubleOf(error).what}
            </p>
          )}
          {choices.length === 0 && error === null && asked === text && data !== undefined ? (
            <p role="status" className="px-3 py-1 text-ink-2">
              No build has “{text}” as number, commit, digest, brand, subject or author.
            </p>
          ) : null}
        </div>
      ) : null}
    </search>
  );
}

function Choice({
  id,
  isChosen,
  pick,
  children,
}: {
  readonly id: string;
  readonly isChosen: boolean;
  readonly pick: () => void;
  readonly children: React.ReactNode;
}) {
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the keyboard acts on the input, which names the chosen one.
    // biome-ignore lint/a11y/useFocusableInteractive: an option of a combobox is never focused itself.
    <div
      id={id}
      role="option"
      aria-selected={isChosen}
      className={`cursor-pointer px-3 py-1 ${isChosen ? 'bg-well' : ''}`}
      // The input would lose the focus, and the list go, before the press is over.
      onMouseDown={(event) => event.preventDefault()}
      onClick={pick}
    >
      {children}
    </div>
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
