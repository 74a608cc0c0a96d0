import { queryOptions, useMutation, useQuery } from '@tanstack/react-query';
import {
  environmentRoutes,
  evidenceRoutes,
  type VariablesReply,
  variableRoutes,
} from '@vaquero/contracts';
import { type FormEvent, useState } from 'react';
import { useParams } from 'react-router';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { AnswerLine, Failed, Frame, lanesOf, Reading } from '../parts/frame.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { counted, moment } from '../parts/words.ts';

const variablesOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'variables'],
    queryFn: ({ signal }) =>
      api.call(variableRoutes.listVariablesRoute, { params: { project }, signal }),
  });
const inspectionOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'inspection'],
    queryFn: ({ signal }) =>
      api.call(evidenceRoutes.showInspectionRoute, { params: { project }, signal }),
  });

/** Settings: what builds are given by name, and what stops them. */
export function SettingsPage() {
  const { project = '' } = useParams();
  const { data, error, refetch } = useQuery(variablesOf(project));
  const secrets = data?.variables.filter((one) => one.kind === 'secret').length ?? 0;
  return (
    <Frame project={project}>
      <AnswerLine below="A value is released to a build only where the map sends its ref, and only to steps that name it.">
        {data === undefined
          ? 'Settings'
          : data.unset.length > 0
            ? `The recipe reads ${data.unset.join(', ')}, which nobody has set: a build would stop.`
            : `Builds are given ${counted(data.variables.length - secrets, 'variable')} and ${counted(secrets, 'secret')}.`}
      </AnswerLine>
      {error === null ? null : <Failed error={error} retry={() => void refetch()} />}
      {data === undefined && error === null ? <Reading what="the variables" /> : null}
      {data === undefined ? null : (
        <>
          <VariableTable project={project} variables={data.variables} />
          <SetVariable project={project} unset={data.unset} />
        </>
      )}
      <Overtaken project={project} />
      <Inspection project={project} />
    </Frame>
  );
}

function VariableTable({
  project,
  variables,
}: {
  readonly project: string;
  readonly variables: VariablesReply['variables'];
}) {
  const drop = useMutation({
    mutationFn: ({ name, environment }: { name: string; environment: string }) =>
      api.call(variableRoutes.dropVariableRoute, {
        params: { project, variable: name },
        query: { environment },
      }),
    onSuccess: () => queries.invalidateQueries({ queryKey: [project, 'variables'] }),
  });
  const now = Date.now();
  if (variables.length === 0) return <p className="border-t border-rule py-2">None is set yet.</p>;
  return (
    <>
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-rule-2 text-ink-2">
            {['name', 'for', 'value', 'set by', 'last used', ''].map((title) => (
              <th
                key={title}
                scope="col"
                className={`pr-3 ${title === 'last used' ? 'max-sm:hidden' : ''}`}
              >
                {title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {variables.map((one) => (
            <tr key={`${one.name} ${one.environment}`} className="border-b border-rule leading-7">
              <th scope="row" className="pr-3">
                <code>{one.name}</code>
              </th>
              <td className="pr-3">{one.environment === '' ? 'every build' : one.environment}</td>
              <td className="pr-3 [overflow-wrap:anywhere]">
                {one.value === null ? (
                  <span className="text-ink-2">secret, never shown again</span>
                ) : (
                  <code>{one.value}</code>
                )}
              </td>
              <td className="pr-3">
                {one.by}, <span className="text-ink-2">{moment(one.setAt, now)}</span>
              </td>
              <td className="pr-3 text-ink-2 max-sm:hidden">
                {one.usedAt === null ? 'never' : moment(one.usedAt, now)}
              </td>
              <td className="py-0.5 text-right">
                <Button
                  aria-label={`Take ${one.name} away`}
                  disabled={drop.isPending}
                  onClick={() => drop.mutate(one)}
                >
                  Take away
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {drop.isError ? <Failed error={drop.error} /> : null}
    </>
  );
}

function SetVariable({
  project,
  unset,
}: {
  readonly project: string;
  readonly unset: readonly string[];
}) {
  const [name, setName] = useState(unset[0] ?? '');
  const [value, setValue] = useState('');
  const [environment, setEnvironment] = useState('');
  const [isSecret, setSecret] = useState(true);
  const set = useMutation({
    mutationFn: () =>
      api.call(variableRoutes.setVariableRoute, {
        params: { project, variable: name },
        query: { environment },
        body: { value, kind: isSecret ? 'secret' : 'plain' },
      }),
    onSuccess: async () => {
      setName('');
      setValue('');
      await queries.invalidateQueries({ queryKey: [project, 'variables'] });
    },
  });
  const send = (event: FormEvent): void => {
    event.preventDefault();
    set.mutate();
  };
  return (
    <form
      onSubmit={send}
      className="mt-4 flex flex-wrap items-end gap-3"
      aria-label="Set a variable"
    >
      <label>
        <span className="block text-ink-2">Name</span>
        <input
          className="field font-mono"
          required
          pattern="[A-Z][A-Z0-9_]*"
          title="A–Z, 0–9 and _"
          value={name}
          onChange={(event) => setName(event.currentTarget.value.toUpperCase())}
        />
      </label>
      <label>
        <span className="block text-ink-2">Value</span>
        <input
          className="field w-64 max-w-full font-mono"
          required
          type={isSecret ? 'password' : 'text'}
          autoComplete="off"
          value={value}
          onChange={(event) => setValue(event.currentTarget.value)}
        />
      </label>
      <label>
        <span className="block text-ink-2">For</span>
        <select
          className="field"
          value={environment}
          onChange={(event) => setEnvironment(event.currentTarget.value)}
        >
          <option value="">every build</option>
          <option value="staging">staging</option>
          <option value="production">production</option>
        </select>
      </label>
      <label className="flex min-h-8 items-center gap-2">
        <input
          type="checkbox"
          checked={isSecret}
          onChange={(event) => setSecret(event.currentTarget.checked)}
        />
        Secret
      </label>
      <Button tone="action" type="submit" disabled={set.isPending}>
        Set it
      </Button>
      {set.isError ? <Failed error={set.error} /> : null}
    </form>
  );
}

/** What a newer commit does to an older build, for each environment that follows refs. */
function Overtaken({ project }: { readonly project: string }) {
  const { data } = useQuery(lanesOf(project));
  const change = useMutation({
    mutationFn: ({ environment, stops }: { environment: string; stops: boolean }) =>
      api.call(environmentRoutes.setOvertakenRoute, {
        params: { project, environment },
        body: { overtaken: stops ? 'stop' : 'finish' },
      }),
    onSuccess: () => queries.invalidateQueries({ queryKey: [project] }),
  });
  if (data === undefined) return null;
  return (
    <section aria-label="Overtaken builds" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1">
        <b className="font-[650]">Overtaken builds</b>{' '}
        <span className="text-ink-2">what a newer commit does to the build of an older one</span>
      </h2>
      {data.environments.map((one) => (
        <label key={one.name} className="flex items-baseline gap-2 border-t border-rule py-1">
          <input
            type="checkbox"
            checked={one.overtaken === 'stop'}
            disabled={change.isPending || one.acceptsFrom !== null}
            onChange={(event) =>
              change.mutate({ environment: one.name, stops: event.currentTarget.checked })
            }
          />
          <span>
            <b className="font-[650]">{one.name}</b>{' '}
            <span className="text-ink-2">
              {one.acceptsFrom !== null
                ? 'builds nothing of its own, so nothing is ever ended for it'
                : one.overtaken === 'stop'
                  ? 'ends the older build'
                  : 'lets the older build finish; checked, a newer commit ends it'}
            </span>
          </span>
        </label>
      ))}
      {change.isError ? <Failed error={change.error} /> : null}
    </section>
  );
}

function Inspection({ project }: { readonly project: string }) {
  const { data } = useQuery(inspectionOf(project));
  const change = useMutation({
    mutationFn: (holding: Holding) =>
      api.call(evidenceRoutes.setInspectionRoute, {
        params: { project },
        body: { holding },
        seen: data?.version ?? '',
      }),
    // Also after a refusal: what another person set meanwhile is shown beside the words.
    onSettled: () => queries.invalidateQueries({ queryKey: [project, 'inspection'] }),
  });
  if (data === undefined) return null;
  const holding = data.rules.filter((one) => one.holds).map((one) => one.rule);
  return (
    <section aria-label="Inspection" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1">
        <b className="font-[650]">Inspection</b>{' '}
        <span className="text-ink-2">
          what every artifact is looked at for; a rule that stops keeps it from being served
          anywhere
        </span>
      </h2>
      <ul className="lg:columns-2">
        {data.rules.map((one) => (
          <li key={one.rule} className="break-inside-avoid border-t border-rule py-1">
            <label className="flex items-baseline gap-2">
              <input
                type="checkbox"
                checked={one.holds}
                disabled={change.isPending}
                onChange={(event) =>
                  change.mutate(
                    event.currentTarget.checked
                      ? [...holding, one.rule]
                      : holding.filter((rule) => rule !== one.rule),
                  )
                }
              />
              <Glyph
                name={
                  one.severity === 'error'
                    ? 'failed'
                    : one.severity === 'warning'
                      ? 'warned'
                      : 'skipped'
                }
              />
              <span>
                <b className="font-[650]">{one.rule}</b>{' '}
                <span className="text-ink-2">
                  {one.severity}
                  {one.holds ? ', stops a build' : ''}. {one.cure}
                </span>
              </span>
            </label>
          </li>
        ))}
      </ul>
      {change.isError ? <Failed error={change.error} /> : null}
    </section>
  );
}

type Holding = ReturnType<typeof evidenceRoutes.setInspectionRoute.body.parse>['holding'];
