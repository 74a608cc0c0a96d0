import { useMutation } from '@tanstack/react-query';
import { elsewhereRoutes } from '@vaquero/contracts';
import { returnPath } from '@vaquero/core';
import { useEffect } from 'react';
import { Link, useLocation, useNavigate } from 'react-router';
import { api, queries } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Failed } from '../parts/failed.tsx';
import { Reading } from '../parts/reading.tsx';
import { takePlace } from './elsewhere.ts';

/** Where a browser comes back to from elsewhere: its answer is taken once, then one goes on. */
export function BackPage() {
  const { search } = useLocation();
  const navigate = useNavigate();
  const { mutate, isError, error } = useMutation({
    mutationFn: () => api.call(elsewhereRoutes.endElsewhereRoute, { body: { search } }),
    onSuccess: async () => {
      queries.clear();
      await navigate(returnPath(takePlace()), { replace: true });
    },
  });
  useEffect(() => mutate(), [mutate]);
  return (
    <main className="mx-auto mt-[14vh] w-[min(26rem,calc(100vw-2rem))]">
      <AnswerLine>Signing in</AnswerLine>
      {isError ? (
        <>
          <Failed error={error} />
          <p>
            <Link to="/sign-in">Sign in</Link>
          </p>
        </>
      ) : (
        <Reading what="who you are" />
      )}
    </main>
  );
}
