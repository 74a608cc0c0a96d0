import { useMutation } from '@tanstack/react-query';
import { type PullRequestReply, pullRequestRoutes } from '@vaquero/contracts';
import { counted, type Verdict } from '@vaquero/core';
import { useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { moment } from '../parts/words.ts';

/** What members say of the commit that they looked at, and one's own. */
export function Verdicts({
  project,
  pull,
  now,
}: {
  readonly project: string;
  readonly pull: PullRequestReply;
  readonly now: number;
}) {
  const { head, verdicts, name } = pull;
  const ofHead = verdicts.filter(({ isOfHead }) => isOfHead);
  const isOpen = pull.state === 'open' && head !== null;
  if (!isOpen && verdicts.length === 0) return null;
  return (
    <section aria-label="Verdicts" className="mb-4">
      <h2 className="border-b border-rule-2 pb-0.5">
        <b className="font-[650]">Verdicts</b>{' '}
        <span className="text-ink-2">
          {head === null
            ? ''
            : `${counted(ofHead.length, 'verdict')} on ${head.commit.slice(0, 8)}`}
        </span>
      </h2>
      <ul>
        {verdicts.map((one) => (
          <li
            key={`${one.name} ${one.commit}`}
            className="flex flex-wrap items-baseline gap-x-2 border-b border-rule leading-[25px]"
          >
            <span className="min-w-40 flex-1">
              <Glyph name={one.verdict === 'looks-right' ? 'passed' : 'warned'} />{' '}
              <b className="font-[650]">{one.by}</b>{' '}
              {one.verdict === 'looks-right' ? 'looks right' : 'not yet'}
              {one.says === '' ? null : (
                <>
                  : <span className="said">“{one.says}”</span>
                </>
              )}
            </span>
            <span className="whitespace-nowrap text-ink-2">
              {one.isOfHead ? moment(one.at, now) : `of ${one.commit.slice(0, 8)}, a commit before`}
            </span>
          </li>
        ))}
      </ul>
      {isOpen && head !== null ? (
        <Own key={head.commit} project={project} name={name} commit={head.commit} />
      ) : null}
    </section>
  );
}

/** One's own verdict on the commit that the page shows; said again, it takes the place of the one before. */
function Own({
  project,
  name,
  commit,
}: {
  readonly project: string;
  readonly name: string;
  readonly commit: NonNullable<PullRequestReply['head']>['commit'];
}) {
  const [says, setSays] = useState('');
  const give = useMutation({
    mutationFn: (verdict: Verdict) =>
      api.call(pullRequestRoutes.giveVerdictRoute, {
        params: { project, pullRequest: name },
        body: { commit, verdict, says },
      }),
    onSuccess: () => setSays(''),
    onSettled: () => queries.invalidateQueries({ queryKey: [project] }),
  });
  return (
    <fieldset className="mt-1 flex flex-wrap items-end gap-2">
      <legend className="sr-only">Your verdict</legend>
      <TextField
        label="A sentence, if you like"
        className="said w-56 max-w-full"
        maxLength={500}
        value={says}
        onChange={(event) => setSays(event.currentTarget.value)}
      />
      <Button disabled={give.isPending} onClick={() => give.mutate('looks-right')}>
        Looks right
      </Button>
      <Button disabled={give.isPending} onClick={() => give.mutate('not-yet')}>
        Not yet
      </Button>
      {give.isError ? <Failed error={give.error} /> : null}
    </fieldset>
  );
}
