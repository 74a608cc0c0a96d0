import { useQuery } from '@tanstack/react-query';
import type { VariablesReply } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { useParams } from 'react-router';
import { SettingsPage } from '../frame/settings-page.tsx';

import { SetVariable } from './set-variable.tsx';
import { VariableTable } from './variable-table.tsx';
import { variablesOf } from './variables-of.ts';

/** What builds are given by name. */
export function ValuesPage() {
  const { project = '' } = useParams();
  return (
    <SettingsPage
      project={project}
      what="the variables"
      asked={useQuery(variablesOf(project))}
      answer={answerOf}
      below="A value is released to a build only where the map sends its ref, and only to steps that name it."
    >
      {(data) => (
        <>
          <VariableTable project={project} {...data} />
          <SetVariable project={project} {...data} />
        </>
      )}
    </SettingsPage>
  );
}

function answerOf({ variables, unset }: VariablesReply): string {
  const secrets = variables.filter((one) => one.kind === 'secret').length;
  return unset.length > 0
    ? `The recipe reads ${unset.join(', ')}, which nobody has set: a build would stop.`
    : `Builds are given ${counted(variables.length - secrets, 'variable')} and ${counted(secrets, 'secret')}.`;
}
