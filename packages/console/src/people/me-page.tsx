import { useMutation, useQuery } from '@tanstack/react-query';
import { type Me, peopleRoutes } from '@vaquero/contracts';
import { may } from '@vaquero/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { Page } from '../frame/page.tsx';
import { api, queries } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { Table } from '../parts/table.tsx';
import { capital, moment } from '../parts/words.ts';
import { grantInWords } from './held-in-words.ts';
import { mine, mySessions } from './mine.ts';
import { MyElsewhere } from './my-elsewhere.tsx';
import { MyFactor } from './my-factor.tsx';
import { MyMail } from './my-mail.tsx';
import { MyTellings } from './my-tellings.tsx';
import { MyTokens } from './my-tokens.tsx';

/** Oneself: what one may do, where one is signed in, and the password. */
export function MePage() {
  const asked = useQuery(mine);
  return (
    <Page project={null} title="You" what="who you are" asked={asked}>
      {(me) => (
        <>
          <AnswerLine below={grantsInWords(me)}>
            You are {me.shownAs}, and sign in as {me.name}.
          </AnswerLine>
          <div className="grid gap-8 lg:grid-cols-2">
            <Sessions />
            <Password />
            <MyFactor me={me} />
            <MyElsewhere me={me} />
            <MyMail />
            <MyTellings />
            <MyTokens />
            {may(me.grants, 'operate', null) ? (
              <p className="sm:hidden">
                <Link to="/people">People and groups of the installation</Link>;{' '}
                <Link to="/machines">its runners and edges</Link>
              </p>
            ) : null}
          </div>
        </>
      )}
    </Page>
  );
}

function grantsInWords({ grants }: Me): string {
  if (grants.length === 0) return 'You have no role anywhere yet.';
  return `${capital(grants.map(grantInWords).join('; '))}.`;
}

function Sessions() {
  const { data, error, dataUpdatedAt } = useQuery(mySessions);
  const end = useMutation({
    mutationFn: (session: string) =>
      api.call(peopleRoutes.endSessionRoute, { params: { session } }),
    onSettled: () => queries.invalidateQueries(mySessions),
  });
  return (
    <section aria-label="Where you are signed in">
      <h2 className="pb-1 font-[650]">Where you are signed in</h2>
      {error === null ? null : <Failed error={error} />}
      {data === undefined ? null : (
        <Table
          caption="Browsers in which you are signed in"
          rows={data.sessions}
          keyOf={({ id }) => id}
          empty="In no browser: you came by a token."
          columns={[
            {
              head: 'since',
              isName: true,
              cell: ({ madeAt, isOwn }) =>
                `${moment(madeAt, dataUpdatedAt)}${isOwn ? ', this browser' : ''}`,
            },
            { head: 'until', cell: ({ expiresAt }) => moment(expiresAt, dataUpdatedAt) },
            {
              head: 'end',
              cell: ({ id, isOwn, madeAt }) =>
                isOwn ? null : (
                  <Button
                    aria-label={`Sign out the browser of ${moment(madeAt, dataUpdatedAt)}`}
                    disabled={end.isPending}
                    onClick={() => end.mutate(id)}
                  >
                    Sign out
                  </Button>
                ),
            },
          ]}
        />
      )}
      {end.isError ? <Failed error={end.error} /> : null}
    </section>
  );
}

function Password() {
  const [now, setNow] = useState('');
  const [next, setNext] = useState('');
  const change = useMutation({
    mutationFn: () => api.call(peopleRoutes.changePasswordRoute, { body: { now, next } }),
    onSuccess: async () => {
      setNow('');
      setNext('');
      await queries.invalidateQueries(mySessions);
    },
  });
  return (
    <section aria-label="Password">
      <h2 className="pb-1 font-[650]">Another password</h2>
      <form
        className="flex max-w-sm flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate();
        }}
      >
        <TextField
          label="The one that you have"
          type="password"
          autoComplete="current-password"
          required
          value={now}
          onChange={(event) => setNow(event.target.value)}
        />
        <TextField
          label="The new one, of at least 12 letters"
          type="password"
          autoComplete="new-password"
          required
          value={next}
          onChange={(event) => setNext(event.target.value)}
        />
        {change.isError ? <Failed error={change.error} /> : null}
        <p role="status">
          {change.isSuccess ? 'It is set. Every other browser is signed out; tokens stay.' : ''}
        </p>
        <Button type="submit" tone="action" disabled={change.isPending}>
          Set it
        </Button>
      </form>
    </section>
  );
}
