import { useMutation } from '@tanstack/react-query';
import { mailRoutes } from '@vaquero/contracts';
import { Link, useLocation } from 'react-router';
import { api, queries } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { myMail } from './mine.ts';

/** Where the link of a mail leads: one press says that the address is one's own. A program that opens links presses nothing. */
export function MailPage() {
  const { hash } = useLocation();
  const prove = useMutation({
    mutationFn: () =>
      api.call(mailRoutes.proveMailRoute, { body: { key: hash.replace(/^#/, '') } }),
    onSuccess: (now) => queries.setQueryData(myMail.queryKey, now),
  });
  return (
    <main className="mx-auto mt-[10vh] w-[min(26rem,calc(100vw-2rem))]">
      <AnswerLine
        below={
          prove.isSuccess
            ? 'Commits under it bear your name here from now on.'
            : 'Whoever reads the mail and is signed in here is whose address it is.'
        }
      >
        {prove.isSuccess ? 'This address is yours.' : 'Is the address yours?'}
      </AnswerLine>
      {prove.isError ? <Failed error={prove.error} /> : null}
      {prove.isSuccess ? (
        <p role="status">
          <Link to="/me">All your addresses</Link>
        </p>
      ) : (
        <Button tone="action" disabled={prove.isPending} onClick={() => prove.mutate()}>
          It is mine
        </Button>
      )}
    </main>
  );
}
