import { useMutation, useQuery } from '@tanstack/react-query';
import { passwordLinkRoutes } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { Page } from '../frame/page.tsx';
import { api } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { ShownOnce } from '../parts/shown-once.tsx';
import { Table } from '../parts/table.tsx';
import { moment } from '../parts/words.ts';
import { EndFactor } from './end-factor.tsx';
import { everybody } from './everybody.ts';
import { Groups } from './groups.tsx';
import { grantInWords } from './held-in-words.ts';
import { SignInRule } from './sign-in-rule.tsx';

/** A link for somebody who lost their password, shown this once. */
function PasswordLink({ name, shownAs }: { readonly name: string; readonly shownAs: string }) {
  const make = useMutation({
    mutationFn: () =>
      api.call(passwordLinkRoutes.makePasswordLinkRoute, { params: { person: name } }),
  });
  return (
    <>
      <Button
        aria-label={`Make a link for another password of ${shownAs}`}
        disabled={make.isPending}
        onClick={() => make.mutate()}
      >
        Make a link
      </Button>
      {make.isSuccess ? (
        <ShownOnce secret={make.data.address}>
          Send this to them; it works once, for a day, and is shown this once:
        </ShownOnce>
      ) : null}
      {make.isError ? <Failed error={make.error} /> : null}
    </>
  );
}

/** What there is beside the people, in words; nothing where there is nothing. */
function besides(services: number, invitations: number): string | undefined {
  const said = [
    ...(services > 0 ? [counted(services, 'service')] : []),
    ...(invitations > 0 ? [`${counted(invitations, 'invitation')} to the installation`] : []),
  ];
  return said.length === 0 ? undefined : `Besides: ${said.join(', ')}.`;
}

/** An operator's page: everybody of the installation, and the groups that they are in. */
export function PeoplePage() {
  const asked = useQuery(everybody);
  return (
    <Page project={null} title="People" what="who is here" asked={asked}>
      {({ people, invitations }) => {
        const persons = people.filter(({ kind }) => kind === 'person');
        const services = people.filter(({ kind }) => kind === 'service');
        const now = asked.dataUpdatedAt;
        return (
          <>
            <AnswerLine below={besides(services.length, invitations.length)}>
              {counted(persons.length, 'person', 'people')} may do something here.
            </AnswerLine>
            <Table
              caption="Everybody of the installation"
              rows={[...persons, ...services]}
              keyOf={({ name }) => name}
              empty="Nobody."
              rowClass="max-sm:grid max-sm:py-2"
              columns={[
                { head: 'who', isName: true, cell: ({ shownAs }) => shownAs },
                {
                  head: 'name',
                  className: 'font-mono text-[0.86em]',
                  cell: ({ name, kind }) => (kind === 'person' ? name : `${name}, a ${kind}`),
                },
                {
                  head: 'may',
                  cell: ({ grants }) => grants.map(grantInWords).join('; ') || 'nothing',
                },
                {
                  head: 'last seen',
                  className: 'text-ink-2 whitespace-nowrap',
                  cell: ({ lastSeenAt }) =>
                    lastSeenAt === null ? 'not yet' : moment(lastSeenAt, now),
                },
                {
                  head: 'second factor',
                  cell: (one) =>
                    one.kind === 'person' ? one.hasFactor ? <EndFactor {...one} /> : 'none' : null,
                },
                {
                  head: 'password',
                  cell: (one) => (one.kind === 'person' ? <PasswordLink {...one} /> : null),
                },
              ]}
            />
            <Groups />
            <SignInRule />
          </>
        );
      }}
    </Page>
  );
}
