import { useQuery } from '@tanstack/react-query';
import type { ReachReply } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { Glyph, type GlyphName } from '../parts/glyph.tsx';
import { type Column, Table } from '../parts/table.tsx';
import { capital } from '../parts/words.ts';
import { reachOf } from './map-of.ts';
import { MapTabs } from './map-tabs.tsx';
import { WhyBox } from './why-box.tsx';

/** Who and what can reach which environment, and why. */
export function ReachPage() {
  const { project = '' } = useParams();
  const asked = useQuery(reachOf(project));
  return (
    <Page project={project} title="Reach" what="who and what reaches where" asked={asked}>
      {(reach) => <ReachOf project={project} reach={reach} />}
    </Page>
  );
}

type Person = ReachReply['people'][number];
type Group = ReachReply['refs'][number];
type Rule = ReachReply['rules'][number];

function ReachOf({ project, reach }: { readonly project: string; readonly reach: ReachReply }) {
  const { rules, people, refs, warnings, version } = reach;
  return (
    <>
      <AnswerLine
        below={`By version ${version} of the map, with ${people.length} ${people.length === 1 ? 'member' : 'members'} and the refs that are there now.`}
      >
        {answerFor(reach)}
      </AnswerLine>
      <MapTabs project={project} />
      <Warnings warnings={warnings} />
      <div className="grid gap-6 lg:grid-cols-[minmax(0,2.4fr)_minmax(0,1fr)]">
        <div>
          <Table
            caption="People, and what each may do to each environment"
            columns={personColumns(rules)}
            rows={people}
            keyOf={({ name }) => name}
            empty="Nobody may read this project."
            rowClass="max-sm:grid max-sm:py-1"
          />
          <Table
            caption="Refs, and how each comes to each environment"
            className="mt-5"
            columns={refColumns(rules)}
            rows={refs}
            keyOf={({ kind, names }) => `${kind} ${names[0]}`}
            empty="No ref is known yet."
            rowClass="max-sm:grid max-sm:py-1"
          />
        </div>
        <WhyBox project={project} />
      </div>
    </>
  );
}

const listed = new Intl.ListFormat('en-GB');

/** Who can put bytes into the top environment. */
function answerFor({ rules, people }: ReachReply): string {
  const [top] = rules;
  if (top === undefined) return 'The map has no environment.';
  const able = people.filter(({ deeds }) =>
    deeds[0]?.some((deed) => deed !== 'holds' && deed !== 'ends'),
  );
  if (able.length === 0) return `Nobody can change what ${top.name} serves.`;
  const who = able.length <= 3 ? listed.format(able.map(({ shownAs }) => shownAs)) : null;
  return `${who === null ? capital(counted(able.length, 'person').replace('persons', 'people')) : who} can change what ${top.name} serves.`;
}

function Warnings({ warnings }: Pick<ReachReply, 'warnings'>) {
  if (warnings.length === 0)
    return <p className="mb-3 text-ink-2">The rules allow what they say.</p>;
  return (
    <ul aria-label="The rules allow more, or less, than they seem to say" className="mb-3">
      {warnings.map(({ rule, message }) => (
        <li key={`${rule} ${message}`} className="text-warn">
          <Glyph name="warned" /> <b className="font-[650]">{rule}</b> {message}.
        </li>
      ))}
    </ul>
  );
}

function personColumns(rules: readonly Rule[]): readonly Column<Person>[] {
  return [
    { head: 'who', isName: true, className: 'whitespace-nowrap', cell: ({ shownAs }) => shownAs },
    { head: 'is', className: 'text-ink-2', cell: ({ role }) => role },
    ...rules.map(
      ({ name }, place): Column<Person> => ({
        head: name,
        cell: ({ deeds }) => (
          <Cell where={name}>
            {deeds[place] === undefined || deeds[place].length === 0
              ? null
              : deeds[place].join(', ')}
          </Cell>
        ),
      }),
    ),
  ];
}

function Cell({ where, children }: { readonly where: string; readonly children: string | null }) {
  return (
    <>
      <span className="text-ink-2 sm:hidden">{where}: </span>
      {children ?? (
        <span className="text-ink-2">
          <Glyph name="skipped" /> nothing
        </span>
      )}
    </>
  );
}

const kinds: Readonly<Record<Group['kind'], string>> = {
  branch: 'branch',
  tag: 'tag',
  'pull-request': 'pull request',
  outsiders: 'of an outsider',
};

const ways: Readonly<Record<Group['ways'][number], { glyph: GlyphName; words: string }>> = {
  'by-itself': { glyph: 'automatic', words: 'by itself' },
  'once-served': { glyph: 'waiting', words: 'by itself, once served below' },
  'on-word': { glyph: 'let-in', words: 'on a word' },
  promoted: { glyph: 'promoted', words: 'promoted' },
  'by-merge': { glyph: 'waiting', words: 'by a merge' },
  'not-here': { glyph: 'skipped', words: 'not here' },
};

function refColumns(rules: readonly Rule[]): readonly Column<Group>[] {
  return [
    {
      head: 'what',
      isName: true,
      className: '[overflow-wrap:anywhere]',
      cell: ({ names, count }) => (
        <>
          <code>{names.slice(0, 3).join(', ')}</code>
          {count > 3 ? ` and ${count - 3} more` : ''}
        </>
      ),
    },
    { head: 'is', className: 'whitespace-nowrap text-ink-2', cell: ({ kind }) => kinds[kind] },
    ...rules.map(
      ({ name, kind }, place): Column<Group> => ({
        head: name,
        cell: (group) => {
          const way = group.ways[place] ?? 'not-here';
          const { glyph, words } = ways[way];
          return (
            <span className={way === 'not-here' ? 'text-ink-2' : ''}>
              <span className="text-ink-2 sm:hidden">{name}: </span>
              <Glyph name={glyph} /> {way === 'by-itself' && kind === 'each' ? 'one each' : words}
            </span>
          );
        },
      }),
    ),
  ];
}
