import type { Need } from '@vaquero/core';
import { Link } from 'react-router';
import { Glyph, type GlyphName } from '../parts/glyph.tsx';
import { type Column, Table } from '../parts/table.tsx';
import { clock, lasting } from '../parts/words.ts';

/** What needs somebody, the most pressing first, each with where to go. */
export function NeedTable({
  needs,
  now,
}: {
  readonly needs: readonly Need[];
  readonly now: number;
}) {
  if (needs.length === 0) return null;
  return (
    <Table
      caption="Projects that need somebody"
      className="mb-6"
      columns={columnsFor(now)}
      rows={needs}
      keyOf={({ project }) => project}
      empty=""
      rowClass="max-sm:grid max-sm:py-2"
    />
  );
}

function columnsFor(now: number): readonly Column<Need>[] {
  return [
    {
      head: 'project',
      isName: true,
      cell: ({ project }) => (
        <Link to={`/p/${project}`} className="font-serif text-section">
          {project}
        </Link>
      ),
    },
    {
      head: 'needs somebody',
      className: 'whitespace-nowrap',
      cell: (need) => {
        const { glyph, words, tone } = told(need);
        return (
          <span className={tone}>
            <Glyph name={glyph} /> {words}
          </span>
        );
      },
    },
    { head: 'why', className: 'said', cell: (need) => why(need) },
    {
      head: 'for',
      className: 'whitespace-nowrap',
      cell: ({ since }) => (since === null ? '' : lasting(Math.max(0, now - since))),
    },
    {
      head: 'next',
      isFigure: true,
      className: 'whitespace-nowrap max-sm:text-left',
      cell: (need) => {
        const { to, words } = next(need);
        return <Link to={to}>{words}</Link>;
      },
    },
  ];
}

function told(need: Need): {
  readonly glyph: GlyphName;
  readonly words: string;
  readonly tone: string;
} {
  switch (need.kind) {
    case 'held':
      return { glyph: 'held', words: `${need.environment} held`, tone: 'text-warn' };
    case 'offered':
      return { glyph: 'waiting', words: `waits for a word`, tone: 'text-warn' };
    case 'word':
      return { glyph: 'waiting', words: 'waits for a word', tone: 'text-warn' };
    case 'trouble':
      return { glyph: 'stale', words: 'repository not read', tone: 'text-warn' };
    case 'failed':
      return { glyph: 'failed', words: `build ${need.build} failed`, tone: 'text-bad' };
    case 'ending':
      return { glyph: 'waiting', words: `${need.environment} ends soon`, tone: 'text-warn' };
  }
}

function why(need: Need): string {
  switch (need.kind) {
    case 'held':
      return `“${need.says}” ${need.by}`;
    case 'offered':
      return `Build ${need.build} may go to ${need.environment}: ${need.says}`;
    case 'word':
      return `${need.pullRequest} is an outsider’s: ${need.says}`;
    case 'trouble':
      return need.says;
    case 'failed':
      return `${need.environment} serves what it served before`;
    case 'ending':
      return `It is yours, and nobody touched it: it ends at ${clock(need.endsAt)} UTC`;
  }
}

function next(need: Need): { readonly to: string; readonly words: string } {
  const at = `/p/${need.project}`;
  switch (need.kind) {
    case 'held':
      return { to: at, words: 'Look, lift' };
    case 'offered':
      return { to: at, words: `Let ${need.build} in` };
    case 'word':
      return { to: `${at}/${need.pullRequest}`, words: `Read ${need.pullRequest}` };
    case 'trouble':
      return { to: `${at}/settings`, words: 'Settings' };
    case 'failed':
      return { to: `${at}/builds/${need.build}`, words: `Open build ${need.build}` };
    case 'ending':
      return { to: `${at}/pull-requests/previews`, words: 'Keep it, or let it end' };
  }
}
