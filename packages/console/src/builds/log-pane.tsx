import { useQuery } from '@tanstack/react-query';
import { buildRoutes, pathOf } from '@vaquero/contracts';
import { useEffect, useMemo, useRef, useState } from 'react';
import { api } from '../http/api.ts';
import { clockWithSeconds } from '../parts/words.ts';
import { ColouredLine } from './coloured-line.tsx';
import { type ShownLine, useLog } from './use-log.ts';

/** What stands where no line does: none was said, or none has come yet. */
function saysOf(hasLines: boolean, isRunning: boolean, over: boolean): string {
  if (hasLines) return 'No line of it.';
  if (isRunning) return 'It waits for the first line.';
  return over ? 'No line.' : 'The log is being read.';
}

interface LogPaneProps {
  readonly project: string;
  readonly build: number;
  readonly attempts: number;
  readonly telling: number | null;
  readonly steps: readonly string[];
  /** Numbers of lines that the last good build did not say. */
  readonly fresh: readonly number[];
  readonly good: number | null;
  readonly isRunning: boolean;
}

/** What of a log is shown: all, one step's, or what the last good build did not say. */
type Choice =
  | { readonly kind: 'all' }
  | { readonly kind: 'step'; readonly step: string }
  | { readonly kind: 'fresh' };

/** A build's log, split by step. While it runs the pane stays at its end, unless the reader has scrolled up. */
export function LogPane(props: LogPaneProps) {
  const { project, build, attempts, telling, isRunning, fresh, steps } = props;
  const { lines, over } = useLog(project, build, attempts);
  const [choice, setChoice] = useState<Choice>({ kind: 'all' });
  const [find, setFind] = useState('');
  const said = useSaid(project, build, attempts, lines.at(0)?.number ?? 1, !over);
  const shown = useMemo(() => {
    const wanted = find.toLowerCase();
    const kept = new Set(fresh);
    return lines.filter(
      (line) =>
        (choice.kind !== 'step' || said.get(line.number)?.step === choice.step) &&
        (choice.kind !== 'fresh' || kept.has(line.number)) &&
        line.text.toLowerCase().includes(wanted),
    );
  }, [lines, choice, find, said, fresh]);
  const talking = useMemo(() => {
    const names = new Set([...said.values()].map((line) => line.step));
    return steps.filter((step) => names.has(step));
  }, [said, steps]);
  const pane = useRef<HTMLDivElement>(null);
  const atEnd = useRef(true);
  useEffect(() => {
    const box = pane.current;
    if (box === null || shown.length === 0) return;
    const line = telling === null ? null : box.querySelector(`[data-line="${telling}"]`);
    if (line !== null && over) line.scrollIntoView({ block: 'nearest' });
    else if (atEnd.current) box.scrollTop = box.scrollHeight;
  }, [shown, over, telling]);
  return (
    <section aria-label="Log" className="min-w-0">
      <LogHead {...props} steps={talking} choice={choice} choose={setChoice} />
      <div
        ref={pane}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a pane that scrolls must be reachable by keyboard.
        tabIndex={0}
        role="log"
        aria-live="off"
        className="h-[min(28rem,60vh)] overflow-auto border border-rule bg-sheet py-1 font-mono text-small"
        onScroll={(event) => {
          const box = event.currentTarget;
          atEnd.current = box.scrollHeight - box.scrollTop - box.clientHeight < 24;
        }}
      >
        {shown.map((line) => (
          <Line
            key={line.number}
            line={line}
            at={said.get(line.number)?.at ?? null}
            isTelling={line.number === telling}
          />
        ))}
        {shown.length > 0 ? null : (
          <p className="px-3 text-ink-2">{saysOf(lines.length > 0, isRunning, over)}</p>
        )}
      </div>
      <p className="mt-1 flex items-baseline gap-3">
        <label className="flex items-baseline gap-2">
          <span className="text-ink-2">Find in it</span>
          <input
            className="field min-h-0 w-40 py-0.5"
            type="search"
            value={find}
            onChange={(event) => setFind(event.currentTarget.value)}
          />
        </label>
        <span className="text-ink-2">
          {lines.length === 0 ? '' : `${shown.length} of ${lines.at(-1)?.number ?? 0} lines`}
          {over || lines.length === 0 ? '' : ', following'}
        </span>
        <a className="ml-auto" href={pathOf(buildRoutes.buildLogRoute, { project, build })}>
          Raw
        </a>
      </p>
    </section>
  );
}

interface LogHeadProps extends LogPaneProps {
  readonly choice: Choice;
  readonly choose: (choice: Choice) => void;
}

function LogHead({ steps, fresh, good, choice, choose }: LogHeadProps) {
  const tab = (words: string, mine: Choice, isOn: boolean) => (
    <button
      key={words}
      type="button"
      aria-pressed={isOn}
      className={`underline-offset-4 ${isOn ? 'font-[650] underline decoration-2' : 'text-ink-2 hover:underline'}`}
      onClick={() => choose(mine)}
    >
      {words}
    </button>
  );
  return (
    <h2 className="flex flex-wrap items-baseline gap-x-3 pb-1">
      <b className="font-[650]">Log</b>
      {tab('all', { kind: 'all' }, choice.kind === 'all')}
      {steps.map((step) =>
        tab(step, { kind: 'step', step }, choice.kind === 'step' && choice.step === step),
      )}
      {fresh.length === 0 || good === null
        ? null
        : tab(
            `only what ${good} did not say (${fresh.length})`,
            { kind: 'fresh' },
            choice.kind === 'fresh',
          )}
    </h2>
  );
}

type Said = ReadonlyMap<number, { readonly step: string; readonly at: number | null }>;

/** Which step said each line and when; asked again while lines come. */
function useSaid(
  project: string,
  build: number,
  attempts: number,
  from: number,
  isComing: boolean,
): Said {
  const { data } = useQuery({
    queryKey: [project, 'lines', build, attempts, from, isComing],
    queryFn: ({ signal }) =>
      api.call(buildRoutes.logLinesRoute, {
        params: { project, build },
        query: { from, limit: 5000 },
        signal,
      }),
    refetchInterval: isComing ? 2_000 : false,
  });
  return useMemo(() => new Map((data?.lines ?? []).map((line) => [line.number, line])), [data]);
}

function Line({
  line,
  at,
  isTelling,
}: {
  readonly line: ShownLine;
  readonly at: number | null;
  readonly isTelling: boolean;
}) {
  return (
    <div
      id={`line-${line.number}`}
      data-line={line.number}
      className={`grid grid-cols-[2.8rem_4.2rem_1fr] leading-[17px] ${isTelling ? 'border-l-4 border-bad bg-bad-wash font-[700]' : 'border-l-4 border-transparent'}`}
    >
      <a
        href={`#line-${line.number}`}
        className="select-none pr-2 text-right text-ink-3 no-underline"
      >
        {line.number}
      </a>
      <span className="select-none text-ink-3">{at === null ? '' : clockWithSeconds(at)}</span>
      <span className="whitespace-pre-wrap break-words pr-2">
        <ColouredLine text={line.text} />
      </span>
    </div>
  );
}
