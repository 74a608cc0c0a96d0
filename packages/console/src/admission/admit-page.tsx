import { useQuery } from '@tanstack/react-query';
import { admissionRoutes } from '@vaquero/contracts';
import { useEffect } from 'react';
import { useSearchParams } from 'react-router';
import { api } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Failed } from '../parts/failed.tsx';
import { Reading } from '../parts/reading.tsx';

/** Where a site that is not for everybody sends its visitors: who may see it goes back with a word of the service's. */
export function AdmitPage() {
  const [search] = useSearchParams();
  const host = search.get('host') ?? '';
  const body = { host, visitor: search.get('visitor'), to: search.get('to') ?? '/' };
  const { data, error } = useQuery({
    queryKey: ['admit', body],
    queryFn: ({ signal }) => api.call(admissionRoutes.passRoute, { body, signal }),
    retry: false,
    // Each time it is opened a word is asked for anew.
    gcTime: 0,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const address = data?.address ?? null;
  useEffect(() => {
    // This page does not stay behind in the history: the way back leads to where one came from.
    if (address !== null) window.location.replace(address);
  }, [address]);
  return (
    <main className="mx-auto mt-[14vh] w-[min(34rem,calc(100vw-2rem))]">
      <AnswerLine below="It is not for everybody: the service vouches for who may see it, for an hour.">
        {error === null ? `Opening ${host}` : `${host} cannot be opened`}
      </AnswerLine>
      {error === null ? <Reading what="who may see it" /> : <Failed error={error} />}
    </main>
  );
}
