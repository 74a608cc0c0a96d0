import { useDeferredValue, useMemo, useRef, useState } from 'react';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import type { LogOf } from './log-pane.tsx';
import { usePlaced } from './log-places.ts';
import { type Choice, LogView } from './log-view.tsx';
import { endOfLog, type LogStart, type LogWish, useWholeLog } from './use-whole-log.ts';

/** So many lines stand before one that is meant, so that it is seen where it was said. */
const before = 100;
/** So near to an edge of the pane more is asked for. */
const nearPx = 400;

const none: readonly never[] = [];

/** The line that the address names, or the one that tells why the build failed. */
function meantLine(telling: number | null): number | null {
  const [, named] = /^#line-([1-9]\d{0,8})$/.exec(window.location.hash) ?? [];
  return named === undefined ? telling : Number(named);
}

function startAt(line: number | null): LogStart {
  return line === null ? endOfLog : { from: Math.max(1, line - before) };
}

/** A log that is over: whatever its length, what is in sight is asked for, and what is found is found in all of it. */
export function WholeLog(log: LogOf) {
  const { telling, fresh } = log;
  const [choice, choose] = useState<Choice>({ kind: 'all' });
  const [find, setFind] = useState('');
  const [meant, setMeant] = useState(() => meantLine(telling));
  const [start, setStart] = useState<LogStart>(() => startAt(meant));
  const [jumps, setJumps] = useState(0);
  const wanted = useDeferredValue(find);
  const wish = useMemo(() => wishOf(choice, wanted), [choice, wanted]);
  const isAll = wish.step === undefined && wish.find === undefined;
  const begin = isAll && choice.kind === 'all' ? start : startOf(choice, fresh);
  const { data, error, refetch, ...asked } = useWholeLog(log, wish, begin, jumps);
  const lines = useMemo(() => {
    const all = data?.pages.flatMap((page) => page.lines) ?? [];
    const kept = new Set(fresh);
    return choice.kind === 'fresh' ? all.filter(({ number }) => kept.has(number)) : all;
  }, [data, choice, fresh]);
  const pane = useRef<HTMLDivElement>(null);
  // While something else is asked for, what was asked for before stands there.
  const isThere = !asked.isPlaceholderData;
  const scrolled = usePlaced(pane, {
    lines: isThere ? lines : none,
    meant: isAll ? meant : null,
    start: begin,
    jump: jumps,
    stands: (box) => {
      const { isFetching, hasPreviousPage, hasNextPage } = asked;
      const left = box.scrollHeight - box.scrollTop - box.clientHeight;
      if (isFetching || !isThere) return;
      if (box.scrollTop < nearPx && hasPreviousPage) void asked.fetchPreviousPage();
      else if (left < nearPx && hasNextPage) void asked.fetchNextPage();
    },
  });
  const jump = (to: LogStart): void => {
    setMeant(null);
    setStart(to);
    setJumps((before) => before + 1);
  };
  if (error !== null) return <Failed error={error} retry={() => void refetch()} />;
  const { total = 0, found = 0 } = data?.pages.at(-1) ?? {};
  return (
    <LogView
      {...log}
      choice={choice}
      choose={choose}
      find={find}
      setFind={setFind}
      lines={lines}
      telling={telling}
      pane={pane}
      onScroll={scrolled}
      empty={
        data === undefined ? 'The log is being read.' : total === 0 ? 'No line.' : 'No line of it.'
      }
      howMuch={howMuchOf(choice, isAll, { found, total, shown: lines.length })}
      more={
        isAll && (asked.hasPreviousPage || asked.hasNextPage) ? (
          <>
            <Button onClick={() => jump({ from: 1 })}>Beginning</Button>
            <Button onClick={() => jump(endOfLog)}>End</Button>
          </>
        ) : null
      }
    />
  );
}

function wishOf(choice: Choice, find: string): LogWish {
  return {
    ...(choice.kind === 'step' ? { step: choice.step } : {}),
    ...(find === '' ? {} : { find }),
  };
}

/** What is sought is shown from its first line on. */
function startOf(choice: Choice, fresh: readonly number[]): LogStart {
  return { from: choice.kind === 'fresh' ? Math.min(...fresh) : 1 };
}

function howMuchOf(
  choice: Choice,
  isAll: boolean,
  { found, total, shown }: { found: number; total: number; shown: number },
): string {
  if (total === 0) return '';
  if (choice.kind === 'fresh') return `${shown} of ${total} lines`;
  return isAll ? `${total} of ${total} lines` : `${found} of ${total} lines`;
}
