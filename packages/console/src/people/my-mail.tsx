import { useMutation, useQuery } from '@tanstack/react-query';
import { type MailAddresses, mailRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { Table } from '../parts/table.tsx';
import { day } from '../parts/words.ts';
import { myMail } from './mine.ts';

/** Mail addresses: commits under those that are proven are known as one's own. */
export function MyMail() {
  const { data, error } = useQuery(myMail);
  const [address, setAddress] = useState('');
  const took = (now: MailAddresses): void => {
    queries.setQueryData(myMail.queryKey, now);
  };
  const add = useMutation({
    mutationFn: () => api.call(mailRoutes.addMailRoute, { body: { address } }),
    onSuccess: (now) => {
      took(now);
      setAddress('');
    },
  });
  const drop = useMutation({
    mutationFn: (gone: string) => api.call(mailRoutes.dropMailRoute, { body: { address: gone } }),
    onSuccess: took,
  });
  if (data !== undefined && !data.sends && data.addresses.length === 0) return null;
  return (
    <section aria-label="Mail addresses" className="flex flex-col gap-3">
      <h2 className="font-[650]">Mail addresses</h2>
      <p className="text-ink-2">
        Commits under an address that is shown to be yours bear your name here, whatever Git has.
      </p>
      {error === null ? null : <Failed error={error} />}
      {data === undefined ? null : (
        <Table
          caption="Your mail addresses"
          rows={data.addresses}
          keyOf={(one) => one.address}
          empty="None yet."
          columns={[
            { head: 'address', isName: true, cell: (one) => one.address },
            {
              head: 'yours',
              cell: ({ provenAt }) =>
                provenAt === null ? 'its link waits to be opened' : `since ${day(provenAt)}`,
            },
            {
              head: 'away',
              cell: (one) => (
                <Button
                  aria-label={`Take ${one.address} away`}
                  disabled={drop.isPending}
                  onClick={() => drop.mutate(one.address)}
                >
                  Take away
                </Button>
              ),
            },
          ]}
        />
      )}
      {data?.sends === true ? (
        <form
          className="flex max-w-sm flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            add.mutate();
          }}
        >
          <TextField
            label="Another address: a link is sent to it"
            type="email"
            autoComplete="email"
            required
            value={address}
            onChange={(event) => setAddress(event.target.value)}
          />
          {add.isError ? <Failed error={add.error} /> : null}
          <p role="status">{add.isSuccess ? 'The link is sent, and good for a day.' : ''}</p>
          <Button type="submit" disabled={add.isPending}>
            Send the link
          </Button>
        </form>
      ) : null}
      {drop.isError ? <Failed error={drop.error} /> : null}
    </section>
  );
}
