import { useQuery } from '@tanstack/react-query';
import { type MapDifferenceSeen, type MapReply, readMap, readNewMap } from '@vaquero/contracts';
import { counted, type DeliveryMap } from '@vaquero/core';
import { lazy, Suspense, useDeferredValue, useEffect, useRef, useState } from 'react';
import { useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { lanesOf } from '../lanes/lanes-of.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { Reading } from '../parts/reading.tsx';
import { moment } from '../parts/words.ts';
import { useMay } from '../people/use-may.ts';
import { MapChanges } from './map-changes.tsx';
import { MapDrawing } from './map-drawing.tsx';
import { mapOf, mapTrialOf } from './map-of.ts';
import { MapRules } from './map-rules.tsx';
import { MapTabs } from './map-tabs.tsx';
import { MapVersions } from './map-versions.tsx';

// The editor is larger than the rest of the console: it comes when somebody looks at a map.
const MapText = lazy(() => import('./map-text.tsx').then(({ MapText: it }) => ({ default: it })));

/** The map: which refs go to which environments; what if? */
export function MapPage() {
  const { project = '' } = useParams();
  const asked = useQuery(mapOf(project));
  return (
    <Page project={project} title="Map" what="the map" asked={asked}>
      {(map) => <MapOf project={project} map={map} now={asked.dataUpdatedAt} />}
    </Page>
  );
}

/** What somebody writes, and the version that it was begun from. */
interface Draft {
  readonly text: string;
  readonly version: number;
}

function MapOf({
  project,
  map,
  now,
}: {
  readonly project: string;
  readonly map: MapReply;
  readonly now: number;
}) {
  const [mine, setMine] = useState<Draft | null>(null);
  const text = mine?.text ?? map.text;
  const draft = useDeferredValue(text);
  const isDraft = mine !== null && draft !== map.text;
  const setText = (said: string): void =>
    setMine((before) => ({ text: said, version: before?.version ?? map.version }));
  const { may, why } = useMay(project, 'maintain');
  const { data: lanes } = useQuery(lanesOf(project));
  const read = (isDraft ? readNewMap : readMap)(draft, map.version + (isDraft ? 1 : 0), map.trunk);
  // While the draft has a fault, the last one that could be read stays drawn.
  const lastRead = useRef<DeliveryMap | null>(null);
  useEffect(() => {
    if (read.ok) lastRead.current = read.value;
  });
  const drawn = read.ok ? read.value : lastRead.current;
  const trial = useQuery({ ...mapTrialOf(project, draft), enabled: isDraft && read.ok });
  const difference = isDraft && read.ok ? trial.data?.difference : undefined;
  return (
    <>
      <AnswerLine
        below={
          <>
            {isDraft ? 'Not set. ' : ''}Version {map.version} is in force since{' '}
            {moment(map.at, now)}
            {map.by === null ? '' : `, by ${map.by}`}
            {map.reason === null || map.reason === '' ? '' : <>: “{map.reason}”</>};{' '}
            {counted(map.refCount, 'ref')} {map.refCount === 1 ? 'is' : 'are'} known.
          </>
        }
      >
        {isDraft ? draftInWords(difference, read.ok) : inForceInWords(map)}
      </AnswerLine>
      <MapTabs project={project} />
      {drawn === null ? null : (
        <MapDrawing
          map={drawn}
          inForce={map.rules}
          refs={map.refs}
          lanes={lanes?.environments ?? []}
        />
      )}
      <MapRules rules={map.rules} />
      <div className="mt-4 grid gap-6 lg:grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)_minmax(0,0.8fr)]">
        <section aria-label="As text">
          <h2 className="pb-1">
            <b className="font-[650]">As text</b>{' '}
            <span className="text-ink-2">
              {may ? 'faults are told while you type; Ctrl Space completes' : why}
            </span>
          </h2>
          <Suspense fallback={<Reading what="the editor" />}>
            <MapText
              text={text}
              names={map.refs.map(({ name }) => name)}
              isReadOnly={!may}
              onChange={setText}
            />
          </Suspense>
          {read.ok || read.refusal.code !== 'map-invalid' ? null : (
            <ul role="alert" className="mt-1">
              {read.refusal.faults.map((fault) => (
                <li key={`${fault.path} ${fault.message}`} className="text-bad">
                  <Glyph name="failed" /> line {fault.line ?? 1}, column {fault.column ?? 1}:{' '}
                  {fault.path} {fault.message}
                </li>
              ))}
            </ul>
          )}
        </section>
        <MapChanges
          project={project}
          map={map}
          text={draft}
          version={isDraft ? mine.version : null}
          putInPlace={() => setMine({ text, version: map.version })}
          fault={read.ok ? null : 'the text has a fault'}
          trial={trial}
          reset={() => setMine(null)}
        />
        <div>
          <MapVersions project={project} current={map.version} take={may ? setText : null} />
          <Warnings warnings={isDraft ? (trial.data?.warnings ?? []) : map.warnings} />
        </div>
      </div>
    </>
  );
}

function inForceInWords({ rules, trunk }: MapReply): string {
  const top = rules[0]?.name;
  const trunkTo = rules.filter(({ matches }) => matches.some(({ name }) => name === trunk));
  const families = rules.filter(({ kind }) => kind === 'each');
  const living = families.reduce((sum, { environments }) => sum + environments.length, 0);
  const goes =
    trunkTo.length === 0
      ? `${trunk} goes nowhere`
      : `${trunk} goes to ${trunkTo.map(({ name }) => name).join(' and ')}`;
  const from = rules[0]?.acceptsFrom;
  const up = from == null ? '' : `, ${top} accepts what ${from} serves`;
  const more =
    families.length === 0
      ? ''
      : `; ${counted(living, 'preview')} of a family ${living === 1 ? 'lives' : 'live'}`;
  return `${goes}${up}${more}.`;
}

function draftInWords(difference: MapDifferenceSeen | undefined, isRead: boolean): string {
  if (!isRead) return 'This draft has a fault: it says which, below.';
  if (difference === undefined) return 'What this draft would do is being reckoned.';
  const made = difference.rules.filter(({ how }) => how === 'new').length;
  const parts = [
    ...(made > 0 ? [`add ${counted(made, 'rule')}`] : []),
    ...(difference.starts.length > 0
      ? [`start ${counted(difference.starts.length, 'environment')}`]
      : []),
    ...(difference.ends.length > 0
      ? [`end ${counted(difference.ends.length, 'environment')}`]
      : []),
    ...(difference.refCount > 0 ? [`send ${counted(difference.refCount, 'ref')} elsewhere`] : []),
  ];
  if (parts.length === 0)
    return difference.rules.length === 0
      ? 'This draft would change nothing but words.'
      : 'This draft would change rules, and nothing that is there now.';
  return `This draft would ${parts.join(', ')}.`;
}

function Warnings({ warnings }: { readonly warnings: MapReply['warnings'] }) {
  if (warnings.length === 0) return null;
  return (
    <section aria-label="The check says" className="mt-4 border-t border-rule pt-2">
      <h2 className="font-[650]">The check says</h2>
      <ul>
        {warnings.map(({ line, path, message }) => (
          <li key={`${path} ${message}`} className="text-warn">
            <Glyph name="warned" /> line {line ?? 1}, {path.replace('environments.', '')}: {message}
          </li>
        ))}
      </ul>
    </section>
  );
}
