import { useQuery } from '@tanstack/react-query';
import type { ComparisonReply } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { useState } from 'react';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Failed } from '../parts/failed.tsx';
import { FindingLine, keyOf } from '../parts/finding-line.tsx';
import { Reading } from '../parts/reading.tsx';

import { comparisonInWords, difference } from './comparison-in-words.ts';
import { comparisonOf } from './comparison-of.ts';
import { PageList } from './page-list.tsx';
import { Pictures } from './pictures.tsx';

const fewFiles = 8;

/** What differs between the artifacts of two builds: pages first, then files, sizes, tests and findings. */
export function Comparison({
  project,
  before,
  after,
  where,
}: {
  readonly project: string;
  readonly before: number;
  readonly after: number;
  /** Where the first is served, such as `in staging`; empty where it is only held against the other. */
  readonly where: string;
}) {
  const { data, error, refetch } = useQuery(comparisonOf(project, before, after));
  return (
    <section aria-label="What would change" className="mb-4">
      <h2 className="pb-1">
        <b className="font-[650]">What would change</b>{' '}
        <span className="text-ink-2">
          against{' '}
          {data === undefined ? null : (
            <BrandMark digest={data.before.artifact} size={14} className="align-[-2px]" />
          )}{' '}
          {before}
          {where === '' ? '' : ` ${where}`}
          {data === undefined ? '' : `: ${comparisonInWords(data)}`}
        </span>
      </h2>
      {error !== null ? (
        <Failed error={error} retry={() => void refetch()} />
      ) : data === undefined ? (
        <Reading what="what would change" />
      ) : (
        <>
          <PageList comparison={data} />
          <Pictures
            project={project}
            pictures={data.pictures}
            builds={{ before: data.before.build, after: data.after.build }}
          />
          <Files comparison={data} />
          <Rest comparison={data} />
        </>
      )}
    </section>
  );
}

function Files({ comparison }: { readonly comparison: ComparisonReply }) {
  const { files, counts, same } = comparison;
  const [isWhole, setWhole] = useState(false);
  const all = counts.added + counts.changed + counts.removed + counts.renamed;
  const shown = isWhole ? files : files.slice(0, fewFiles);
  if (all === 0) return null;
  return (
    <>
      <ul aria-label="Files" className="mt-2 border-t border-rule">
        {shown.map(({ path, how, from, before, after }) => (
          <li
            key={path}
            className="grid grid-cols-[minmax(0,1fr)_4.5rem_4.5rem] gap-x-2 border-b border-rule leading-[21px]"
          >
            <code className="[overflow-wrap:anywhere]">
              {path}
              {from === null ? '' : `, before ${from}`}
            </code>
            <span className="text-ink-2">{how}</span>
            <span className="text-right text-ink-2">
              {difference((after ?? 0) - (before ?? 0))}
            </span>
          </li>
        ))}
      </ul>
      <p className="text-ink-2">
        {counted(same, 'file')} {same === 1 ? 'is' : 'are'} the same
        {shown.length < all ? (
          <>
            ;{' '}
            {shown.length < files.length ? (
              <button
                type="button"
                className="text-action underline"
                onClick={() => setWhole(true)}
              >
                {all - shown.length} more differ
              </button>
            ) : (
              `${all - shown.length} more differ`
            )}
          </>
        ) : null}
        .
      </p>
    </>
  );
}

function Rest({ comparison }: { readonly comparison: ComparisonReply }) {
  const { types, answers, tests, findings } = comparison;
  const more = tests.after.total - tests.before.total;
  return (
    <>
      <dl className="mt-1 [&>div]:grid [&>div]:grid-cols-[4rem_1fr] [&>div]:border-t [&>div]:border-rule [&>div]:py-0.5">
        {types.length === 0 ? null : (
          <div>
            <dt className="text-ink-2">by type</dt>
            <dd>
              {types
                .map(({ type, before, after }) => `${type} ${difference(after - before)}`)
                .join(', ')}
            </dd>
          </div>
        )}
        {tests.after.total === 0 || tests.before.total === 0 ? null : (
          <div>
            <dt className="text-ink-2">tests</dt>
            <dd>
              {counted(tests.after.total, 'test')}
              {more === 0
                ? ', as many as before'
                : `, ${Math.abs(more)} ${more > 0 ? 'more' : 'fewer'}`}
              {tests.after.failed > 0 ? `; ${tests.after.failed} failed` : ''}
            </dd>
          </div>
        )}
        {answers.length === 0 ? null : (
          <div>
            <dt className="text-ink-2">serve</dt>
            <dd>
              {answers.map((key) => (
                <code key={key} className="mr-2">
                  {key}
                </code>
              ))}
              {answers.length === 1 ? 'says otherwise' : 'say otherwise'}
            </dd>
          </div>
        )}
        <div>
          <dt className="text-ink-2">findings</dt>
          <dd>
            {findings.new.length + findings.gone.length === 0
              ? 'none new, none gone'
              : `${findings.new.length} new, ${findings.gone.length} gone`}
          </dd>
        </div>
      </dl>
      {findings.new.length === 0 ? null : (
        <ul aria-label="New findings">
          {findings.new.slice(0, 5).map((finding) => (
            <FindingLine key={keyOf(finding)} finding={finding} />
          ))}
        </ul>
      )}
    </>
  );
}
