import { buildRoutes, pathOf } from '@vaquero/contracts';
import { useEffect, useRef } from 'react';
import { type ShownLine, useLog } from './use-log.ts';

interface LogPaneProps {
  readonly project: string;
  readonly build: number;
  readonly attempts: number;
  readonly telling: number | null;
  readonly isRunning: boolean;
}

/** A build's log. While it runs the pane stays at its end, unless the reader has scrolled up. */
export function LogPane({ project, build, attempts, telling, isRunning }: LogPaneProps) {
  const { lines, over } = useLog(project, build, attempts);
  const pane = useRef<HTMLDivElement>(null);
  const atEnd = useRef(true);
  useEffect(() => {
    const box = pane.current;
    if (box === null || lines.length === 0) return;
    const line = telling === null ? null : box.querySelector(`[data-line="${telling}"]`);
    if (line !== null && over) line.scrollIntoView({ block: 'center' });
    else if (atEnd.current) box.scrollTop = box.scrollHeight;
  }, [lines, over, telling]);
  return (
    <section aria-label="Log" className="min-w-0">
      <h2 className="flex items-baseline gap-3 pb-1">
        <b className="font-[650]">Log</b>
        <span className="ml-auto text-ink-2">
          {lines.length === 0
            ? isRunning
              ? 'waits for the first line'
              : 'no line'
            : `lines ${lines[0]?.number}–${lines.at(-1)?.number}${over ? '' : ', following'}`}
        </span>
      </h2>
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
        {lines.map((line) => (
          <Line key={line.number} line={line} isTelling={line.number === telling} />
        ))}
      </div>
      <p className="mt-1 text-right">
        <a href={pathOf(buildRoutes.buildLogRoute, { project, build })}>Raw</a>
      </p>
    </section>
  );
}

// biome-ignore lint/suspicious/noControlCharactersInRegex: colour codes begin with the escape character.
const colour = /\x1b\[[0-9;]*[A-Za-z]/g;

function Line({ line, isTelling }: { readonly line: ShownLine; readonly isTelling: boolean }) {
  return (
    <div
      id={`line-${line.number}`}
      data-line={line.number}
      className={`grid grid-cols-[3.2rem_1fr] leading-[17px] ${isTelling ? 'border-l-4 border-bad bg-bad-wash font-[700]' : 'border-l-4 border-transparent'}`}
    >
      <span className="select-none pr-2 text-right text-ink-3">{line.number}</span>
      <span className="whitespace-pre-wrap break-words pr-2">{line.text.replace(colour, '')}</span>
    </div>
  );
}
