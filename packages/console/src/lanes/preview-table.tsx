import { counted } from '@vaquero/core';
import { Link } from 'react-router';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { type Column, Table } from '../parts/table.tsx';
import { moment } from '../parts/words.ts';
import { EndPreview } from '../refs/end-preview.tsx';
import { LetIn } from '../releases/let-in-sheet.tsx';
import type { Lane } from './window-of.ts';

/** Environments of families, a row each: what each is of, what it serves, and when it ends. */
export function PreviewTable({
  project,
  previews,
  now,
}: {
  readonly project: string;
  readonly previews: readonly Lane[];
  readonly now: number;
}) {
  if (previews.length === 0) return null;
  return (
    <section aria-label="Previews" className="mb-4 mt-2 border-t-2 border-rule-2 pt-2">
      <h2 className="pb-1">
        <b className="font-[650]">{counted(previews.length, 'preview')}</b>{' '}
        <span className="text-ink-2">
          by the <Link to={`/p/${project}/map`}>map</Link>; each follows its ref and ends by itself.{' '}
          <Link to={`/p/${project}/pull-requests/previews`}>Whose, and until when</Link>
        </span>
      </h2>
      <Table
        caption="Environments of families"
        columns={columnsFor(project, now)}
        rows={previews}
        keyOf={({ name }) => name}
        empty=""
        rowClass="max-sm:grid max-sm:py-1 max-sm:leading-5"
      />
    </section>
  );
}

function columnsFor(project: string, now: number): readonly Column<Lane>[] {
  return [
    {
      head: 'preview',
      isName: true,
      className: 'whitespace-nowrap',
      cell: ({ name, family }) =>
        family !== null && /^pr-\d+$/.test(family.of) ? (
          <Link to={`/p/${project}/${family.of}`}>{name}</Link>
        ) : (
          name
        ),
    },
    {
      head: 'serves',
      className: 'whitespace-nowrap',
      cell: ({ serves, hold }) =>
        serves === null ? (
          <span className="text-ink-2">
            <Unbranded size={14} /> nothing yet
          </span>
        ) : (
          <>
            <BrandMark digest={serves.artifact} size={14} className="align-[-2px]" />{' '}
            <Link to={`/p/${project}/builds/${serves.build}`}>{serves.build}</Link>{' '}
            <code className="text-ink-2">{serves.artifact.slice(0, 8)}</code>
            {hold === null ? null : (
              <>
                {' '}
                <Glyph name="held" /> held
              </>
            )}
          </>
        ),
    },
    {
      head: 'what it brings',
      className: 'said',
      cell: ({ serves, name }) =>
        serves === null ? (
          ''
        ) : (
          <Link to={`/p/${project}/history/${name}`} className="text-ink">
            {serves.subject}
          </Link>
        ),
    },
    {
      head: 'at',
      from: 'sm',
      className: '[overflow-wrap:anywhere]',
      cell: ({ address }) => (
        <a href={address} className="font-mono text-[0.86em]">
          {address.replace(/^https?:\/\//, '')}
        </a>
      ),
    },
    {
      head: 'waits for',
      cell: (lane) => {
        const { waits } = lane;
        if (waits.kind === 'offer')
          return (
            <>
              <Link to={`/p/${project}/builds/${waits.build}`}>build {waits.build}</Link> waits for
              a word <LetIn lane={lane} project={project} />
            </>
          );
        return waits.kind === 'build' ? (
          <Link to={`/p/${project}/builds/${waits.build}`}>
            build {waits.build}, {waits.state}
          </Link>
        ) : (
          <span className="text-ink-2">{waits.kind === 'nothing' ? waits.why : ''}</span>
        );
      },
    },
    {
      head: 'ends',
      from: 'sm',
      className: 'whitespace-nowrap text-ink-2',
      cell: (lane) => (
        <>
          {lane.family?.endsAt == null ? '' : moment(lane.family.endsAt, now)}{' '}
          <EndPreview project={project} lane={lane} />
        </>
      ),
    },
  ];
}
