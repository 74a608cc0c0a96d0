import { useQuery } from '@tanstack/react-query';
import { buildRoutes } from '@vaquero/contracts';
import { useEffect, useMemo, useRef, useState } from 'react';
import { api } from '../http/api.ts';
import type { LogOf } from './log-pane.tsx';
import { type Choice, LogView } from './log-view.tsx';
import { useLog } from './use-log.ts';

/** The last lines of a log that grows. The pane stays at its end, unless the reader has scrolled up. */
export function FollowedLog(log: LogOf) {
  const { project, build, attempts, telling, fresh, steps } = log;
  const { lines, over } = useLog(project, build, attempts);
  const [choice, choose] = useState<Choice>({ kind: 'all' });
  const [find, setFind] = useState('');
  const said = useSaid(project, build, attempts, lines.at(0)?.number ?? 1, !over);
  const shown = useMemo(() => {
    const wanted = find.toLowerCase();
    const kept = new Set(fresh);
    return lines
      .filter(
        (line) =>
          (choice.kind !== 'step' || said.get(line.number)?.step === choice.step) &&
          (choice.kind !== 'fresh' || kept.has(line.number)) &&
          line.text.toLowerCase().includes(wanted),
      )
      .map((line) => ({ ...line, at: said.get(line.number)?.at ?? null }));
  }, [lines, choice, find, said, fresh]);
  const talking = useMemo(() => {
    const names = new Set([...said.values()].map((line) => line.step));
    return steps.filter((step) => names.has(step));
  }, [said, steps]);
  const pane = useRef<HTMLDivElement>(null);
  const atEnd = useRef(true);
  useEffect(() => {
    const box = pane.current;
    if (box !== null && shown.length > 0 && atEnd.current) box.scrollTop = box.scrollHeight;
  }, [shown]);
  return (
    <LogView
      {...log}
      steps={talking}
      choice={choice}
      choose={choose}
      find={find}
      setFind={setFind}
      lines={shown}
      telling={telling}
      pane={pane}
      onScroll={(box) => {
        atEnd.current = box.scrollHeight - box.scrollTop - box.clientHeight < 24;
      }}
      // What runs, or waits for a runner, has no line yet.
      empty={lines.length > 0 ? 'No line of it.' : 'It waits for the first line.'}
      howMuch={
        lines.length === 0 ? '' : `${shown.length} of ${lines.at(-1)?.number ?? 0} lines, following`
      }
    />
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
