import type { PreviewSeen } from '@vaquero/contracts';
import { Link } from 'react-router';
import { Tick } from '../parts/field.tsx';
import type { Column } from '../parts/table.tsx';
import { moment, size } from '../parts/words.ts';
import { EndPreview } from '../refs/end-preview.tsx';
import { KeepPreview } from './keep-preview.tsx';

/** The columns of the list of previews; the first chooses which ones are meant. */
export function previewColumns({
  project,
  now,
  chosen,
  toggle,
}: {
  readonly project: string;
  readonly now: number;
  readonly chosen: ReadonlySet<string>;
  readonly toggle: (name: string, isChosen: boolean) => void;
}): readonly Column<PreviewSeen>[] {
  const at = (moment_: number | null, none: string): string =>
    moment_ === null ? none : moment(moment_, now);
  return [
    {
      head: 'chosen',
      cell: ({ name }) => (
        <Tick
          label=""
          className="h-[25px] min-h-0 items-center"
          aria-label={`Choose ${name}`}
          checked={chosen.has(name)}
          onChange={(event) => toggle(name, event.currentTarget.checked)}
        />
      ),
    },
    {
      head: 'preview',
      isName: true,
      className: '[overflow-wrap:anywhere]',
      cell: ({ name, address, family }) => (
        <>
          {/^pr-\d+$/.test(family.of) ? (
            <Link to={`/p/${project}/${family.of}`}>{name}</Link>
          ) : (
            name
          )}{' '}
          <a href={address} className="text-small font-normal">
            open<span className="sr-only"> {name}</span>
          </a>
        </>
      ),
    },
    {
      head: 'owner',
      className: 'max-sm:col-start-2',
      cell: ({ family }) => family.owner?.shownAs ?? <span className="text-ink-2">not known</span>,
    },
    {
      head: 'build',
      className: 'whitespace-nowrap max-sm:col-start-2',
      cell: ({ build, bytes }) =>
        build === null ? (
          <span className="text-ink-2">waits for its first</span>
        ) : (
          <>
            <Link to={`/p/${project}/builds/${build}`}>{build}</Link>{' '}
            <span className="text-ink-2">{bytes === null ? '' : size(bytes)}</span>
          </>
        ),
    },
    {
      head: 'lives since',
      from: 'lg',
      className: 'whitespace-nowrap text-ink-2',
      cell: ({ startedAt }) => at(startedAt, ''),
    },
    {
      head: 'pushed',
      from: 'lg',
      className: 'whitespace-nowrap text-ink-2',
      cell: ({ lastPushAt }) => at(lastPushAt, ''),
    },
    {
      head: 'visited',
      from: 'lg',
      className: 'whitespace-nowrap text-ink-2',
      cell: ({ lastVisitAt }) => at(lastVisitAt, 'not yet'),
    },
    {
      head: 'ends',
      className: 'max-sm:col-start-2',
      cell: ({ family }) => (
        <span className={family.endsSoon ? 'text-warn' : ''}>
          <span className="sm:hidden">ends </span>
          {at(family.endsAt, '')}
          {family.kept === null ? '' : `, kept by ${family.kept.by}`}
          {family.kept === null && family.endsOf === 'closed' ? ', as its ref has gone' : ''}
        </span>
      ),
    },
    {
      head: '',
      className: 'whitespace-nowrap max-sm:col-start-2',
      cell: (one) => (
        <>
          <KeepPreview project={project} preview={one} />{' '}
          <EndPreview project={project} lane={one} />
        </>
      ),
    },
  ];
}
