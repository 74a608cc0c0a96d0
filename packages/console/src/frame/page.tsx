import { CallRefused } from '@vaquero/contracts';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { AnswerLine } from '../parts/answer.tsx';
import { Failed } from '../parts/failed.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { Reading } from '../parts/reading.tsx';
import { clockWithSeconds } from '../parts/words.ts';
import { Frame } from './frame.tsx';

/** What a page asks the service for: a query, or the pages of one. */
export interface Asked<Data> {
  readonly data: Data | undefined;
  readonly error: Error | null;
  readonly dataUpdatedAt: number;
  readonly refetch: () => unknown;
}

interface PageProps<Data> {
  readonly project: string | null;
  /** The heading while there is nothing else to say. */
  readonly title: string;
  /** What is read, for the line that says so. */
  readonly what: string;
  readonly asked: Asked<Data>;
  readonly children: (data: Data) => ReactNode;
}

/**
 * A page in each of its states: while it reads, when what it is about is not there or not for this person, when the
 * service does not answer, when what it shows is older than that, and with what it is for.
 */
export function Page<Data>({ project, title, what, asked, children }: PageProps<Data>) {
  const { data, error, dataUpdatedAt, refetch } = asked;
  if (data === undefined && isNotThere(error)) return <NotThere project={project} error={error} />;
  return (
    <Frame project={project}>
      {data === undefined ? (
        <>
          <AnswerLine>{title}</AnswerLine>
          {error === null ? (
            <Reading what={what} />
          ) : (
            <Failed error={error} retry={() => void refetch()} />
          )}
        </>
      ) : (
        <>
          {error === null ? null : (
            <div>
              <Failed error={error} retry={() => void refetch()} />
              <p className="text-ink-2" role="status">
                <Glyph name="stale" /> What follows was read at {clockWithSeconds(dataUpdatedAt)}{' '}
                UTC.
              </p>
            </div>
          )}
          {children(data)}
        </>
      )}
    </Frame>
  );
}

function isNotThere(error: Error | null): error is CallRefused {
  return error instanceof CallRefused && error.problem.status === 404;
}

/** Nothing is offered of what is not there: neither its pages nor a command. */
function NotThere({
  project,
  error,
}: {
  readonly project: string | null;
  readonly error: CallRefused;
}) {
  const isProject = project !== null && error.problem.what === 'project';
  return (
    <Frame project={isProject ? null : project}>
      <AnswerLine
        below={
          isProject ? 'It may have another name, or you were not granted to see it.' : undefined
        }
      >
        {error.problem.detail}
      </AnswerLine>
      <p>
        <Link to={isProject || project === null ? '/' : `/p/${project}`}>
          {isProject || project === null ? 'All projects' : `What is live in ${project}`}
        </Link>
      </p>
    </Frame>
  );
}
