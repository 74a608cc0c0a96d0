import { type UseQueryResult, useMutation } from '@tanstack/react-query';
import { type MapDifferenceSeen, type MapReply, mapRoutes } from '@vaquero/contracts';
import { type ReactNode, useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField, Tick } from '../parts/field.tsx';
import { Reading } from '../parts/reading.tsx';
import { useMay } from '../people/use-may.ts';

interface ChangesProps {
  readonly project: string;
  readonly map: MapReply;
  readonly text: string;
  /** The version that the draft was begun from; null while there is none. */
  readonly version: number | null;
  /** Takes the version in force for the one that the draft was begun from. */
  readonly putInPlace: () => void;
  /** What keeps the draft from being set; null for nothing. */
  readonly fault: string | null;
  readonly trial: UseQueryResult<{ difference: MapDifferenceSeen }>;
  readonly reset: () => void;
}

/** What a draft would change, and the framed act that sets it. */
export function MapChanges(props: ChangesProps) {
  const { map, version, fault, trial } = props;
  const difference = trial.data?.difference;
  return (
    <section aria-label="What would change">
      <h2 className="pb-1">
        <b className="font-[650]">What would change</b>{' '}
        <span className="text-ink-2">for what is there now</span>
      </h2>
      {version === null ? (
        <p className="border-t border-rule py-2 text-ink-2">
          Nothing: the text is that of version {map.version}. Change it to see.
        </p>
      ) : fault !== null ? (
        <p className="border-t border-rule py-2 text-ink-2">
          It is reckoned once the fault is gone.
        </p>
      ) : trial.error !== null ? (
        <Failed error={trial.error} retry={() => void trial.refetch()} />
      ) : difference === undefined ? (
        <Reading what="what would change" />
      ) : (
        <Differences difference={difference} />
      )}
      {version === null ? null : (
        <SetMap {...props} version={version} ends={difference?.ends ?? []} />
      )}
    </section>
  );
}

function Differences({ difference }: { readonly difference: MapDifferenceSeen }) {
  const { rules, starts, ends, leaves, refs, refCount, rights, values } = difference;
  return (
    <dl className="[&>div]:grid [&>div]:grid-cols-[4.5rem_2rem_1fr] [&>div]:border-t [&>div]:border-rule [&>div]:py-1">
      <Row name="starts" count={starts.length}>
        {starts.map(({ name }) => name).join(', ') || 'no environment of a family'}
      </Row>
      <Row name="ends" count={ends.length}>
        {ends.length === 0 ? 'nothing that serves' : ends.join(', ')}
        {leaves.length === 0 ? '' : `; ${leaves.join(', ')} after their time`}
      </Row>
      <Row name="rules" count={rules.length}>
        {rules.length === 0
          ? 'none is another'
          : rules.map(({ rule, how, before, after }) => (
              <span key={rule} className="block">
                <b className="font-[650]">{rule}</b> {how}: {after ?? before}
              </span>
            ))}
      </Row>
      <Row name="rights" count={rights.length}>
        {rights.length === 0
          ? 'nobody may do more or less'
          : rights.map(({ name, shownAs, rule, gains, loses }) => (
              <span key={`${name} ${rule}`} className="block">
                <b className="font-[650]">{shownAs}</b>, {rule}:{' '}
                {[
                  ...gains.map((deed) => `also ${deed}`),
                  ...loses.map((deed) => `no longer ${deed}`),
                ].join(', ')}
              </span>
            ))}
      </Row>
      {values.length === 0 ? null : (
        <Row name="values" count={values.length}>
          {values.map(({ rule, names }) => (
            <span key={rule} className="block">
              of {rule} go with it: {names.join(', ')}
            </span>
          ))}
        </Row>
      )}
      <Row name="refs" count={refCount}>
        {refs.length === 0
          ? 'none goes elsewhere'
          : refs.slice(0, 5).map(({ name, before, after }) => (
              <span key={name} className="block">
                <code>{name}</code> to {after.join(' and ') || 'nothing'}, before to{' '}
                {before.join(' and ') || 'nothing'}
              </span>
            ))}
        {refCount > 5 ? `and ${refCount - 5} more` : ''}
      </Row>
    </dl>
  );
}

function Row({
  name,
  count,
  children,
}: {
  readonly name: string;
  readonly count: number;
  readonly children: ReactNode;
}) {
  return (
    <div>
      <dt className="font-[650]">{name}</dt>
      <dd>{count}</dd>
      <dd className="[overflow-wrap:anywhere]">{children}</dd>
    </div>
  );
}

function SetMap({
  project,
  map,
  text,
  fault,
  reset,
  version,
  putInPlace,
  ends,
}: ChangesProps & { readonly version: number; readonly ends: readonly string[] }) {
  const { may, why } = useMay(project, 'maintain');
  const [reason, setReason] = useState('');
  const [named, setNamed] = useState<readonly string[]>([]);
  const set = useMutation({
    mutationFn: () =>
      api.call(mapRoutes.setMapRoute, {
        params: { project },
        body: { text, reason, ends: [...named] },
        seen: String(version),
      }),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [project] });
      reset();
    },
  });
  const unnamed = ends.filter((name) => !named.includes(name));
  const shut = !may
    ? why
    : (fault ??
      (map.version !== version ? 'another version was set meanwhile' : null) ??
      (unnamed.length > 0
        ? `name what ends: ${unnamed.join(', ')}`
        : reason.trim() === ''
          ? 'say why'
          : null));
  return (
    <form
      className="mt-3 border-2 border-ink bg-sheet p-3"
      onSubmit={(event) => {
        event.preventDefault();
        set.mutate();
      }}
    >
      <h3 className="font-serif text-section font-[560]">
        Set version {map.version + 1} in place of {version}
      </h3>
      <TextField
        label="Why, for whoever looks back: one sentence"
        className="said w-full"
        maxLength={500}
        value={reason}
        onChange={(event) => setReason(event.currentTarget.value)}
      />
      {ends.map((name) => (
        <Tick
          key={name}
          checked={named.includes(name)}
          onChange={(event) =>
            setNamed(
              event.currentTarget.checked ? [...named, name] : named.filter((one) => one !== name),
            )
          }
          label={`and end ${name}: what it serves vanishes`}
        />
      ))}
      <p className="mt-2 flex flex-wrap items-center gap-2">
        <Button tone="action" type="submit" disabled={shut !== null || set.isPending}>
          {set.isPending ? 'Setting it' : 'Set it'}
        </Button>
        <Button onClick={reset}>Leave it</Button>
        {shut === null ? null : <span className="text-warn">{shut}</span>}
      </p>
      {map.version === version ? null : (
        <p role="alert" className="mt-2 border-l-4 border-warn-fill bg-warn-wash px-3 py-2">
          Overtaken: version {map.version} was set by {map.by ?? 'Vaquero'} since you began.{' '}
          <button type="button" className="text-action underline" onClick={putInPlace}>
            Put mine in its place
          </button>
        </p>
      )}
      {set.isError ? <Failed error={set.error} /> : null}
    </form>
  );
}
