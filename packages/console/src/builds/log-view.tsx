import { buildRoutes, pathOf } from '@vaquero/contracts';
import type { ReactNode, RefObject } from 'react';
import { SearchField } from '../parts/field.tsx';
import { clockWithSeconds } from '../parts/words.ts';
import { ColouredLine } from './coloured-line.tsx';

/** A line of a log as it is shown. */
export interface LoggedLine {
  readonly number: number;
  readonly text: string;
  readonly at: number | null;
}

/** What of a log is shown: all, one step's, or what the last good build did not say. */
export type Choice =
  | { readonly kind: 'all' }
  | { readonly kind: 'step'; readonly step: string }
  | { readonly kind: 'fresh' };

interface LogViewProps {
  readonly project: string;
  readonly build: number;
  readonly steps: readonly string[];
  /** Numbers of lines that the last good build did not say, and that build. */
  readonly fresh: readonly number[];
  readonly good: number | null;
  readonly choice: Choice;
  readonly choose: (choice: Choice) => void;
  readonly find: string;
  readonly setFind: (find: string) => void;
  readonly lines: readonly LoggedLine[];
  readonly telling: number | null;
  readonly pane: RefObject<HTMLDivElement | null>;
  readonly onScroll: (box: HTMLDivElement) => void;
  /** What stands where no line does. */
  readonly empty: string;
  /** How much of it is seen, in words. */
  readonly howMuch: string;
  /** What else may be done with it. */
  readonly more?: ReactNode;
}

/** A log in its pane, with what chooses among its lines. */
export function LogView(props: LogViewProps) {
  const { project, build, find, setFind, lines, telling, pane, onScroll, empty } = props;
  return (
    <section aria-label="Log" className="min-w-0">
      <LogHead {...props} />
      <div
        ref={pane}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a pane that scrolls must be reachable by keyboard.
        tabIndex={0}
        role="log"
        aria-live="off"
        className="h-[min(28rem,60vh)] overflow-auto [overflow-anchor:none] border border-rule bg-sheet py-1 font-mono text-small"
        onScroll={(event) => onScroll(event.currentTarget)}
      >
        {lines.map((line) => (
          <Line key={line.number} line={line} isTelling={line.number === telling} />
        ))}
        {lines.length > 0 ? null : <p className="px-3 text-ink-2">{empty}</p>}
      </div>
      <p className="mt-1 flex flex-wrap items-baseline gap-3">
        <SearchField label="Find in it" value={find} onText={setFind} />
        <span className="text-ink-2">{props.howMuch}</span>
        {props.more}
        <a className="ml-auto" href={pathOf(buildRoutes.buildLogRoute, { project, build })}>
          Raw
        </a>
      </p>
    </section>
  );
}

function LogHead({ steps, fresh, good, choice, choose }: LogViewProps) {
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

function Line({ line, isTelling }: { readonly line: LoggedLine; readonly isTelling: boolean }) {
  return (
    <div
      id={`line-${line.number}`}
      data-line={line.number}
      className={`grid grid-cols-[3.4rem_4.2rem_1fr] leading-[17px] ${isTelling ? 'border-l-4 border-bad bg-bad-wash font-[700]' : 'border-l-4 border-transparent'}`}
    >
      <a
        href={`#line-${line.number}`}
        className="select-none pr-2 text-right text-ink-3 no-underline"
      >
        {line.number}
      </a>
      <span className="select-none text-ink-3">
        {line.at === null ? '' : clockWithSeconds(line.at)}
      </span>
      <span className="whitespace-pre-wrap break-words pr-2">
        <ColouredLine text={line.text} />
      </span>
    </div>
  );
}
