import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { whyOf } from './map-of.ts';

/** Asks where a ref goes, and which rules say so; or what a commit, a person, an environment is about. */
export function WhyBox({ project }: { readonly project: string }) {
  const [search, setSearch] = useSearchParams();
  const ref = search.get('why') ?? '';
  const [said, setSaid] = useState(ref);
  const { data, error } = useQuery({ ...whyOf(project, ref), enabled: ref !== '' });
  return (
    <section aria-label="Why" className="border-t border-rule pt-2">
      <form
        className="flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          setSearch({ why: said.trim() }, { replace: true });
        }}
      >
        <TextField
          label="Why? A branch, tag, pr-12, commit, person, environment"
          value={said}
          onChange={(event) => setSaid(event.currentTarget.value)}
        />
        <Button type="submit" disabled={said.trim() === ''}>
          Ask
        </Button>
      </form>
      {error === null ? null : <Failed error={error} />}
      {data === undefined ? null : (
        <div aria-live="polite" className="mt-2">
          <p>
            <code>{data.name}</code>: {data.why}
            {data.about === 'ref' && data.commit === null
              ? '. The repository has no such ref now.'
              : '.'}
          </p>
          <ul>
            {data.answers.map(({ rule, isMatch, why }) => (
              <li key={rule} className={isMatch ? '' : 'text-ink-2'}>
                {data.about === 'ref' ? <Glyph name={isMatch ? 'passed' : 'skipped'} /> : null}{' '}
                {rule}: {why}
              </li>
            ))}
            {data.environments.map(({ name, address, serves }) => (
              <li key={name}>
                <a href={address}>{name}</a>{' '}
                {serves === null ? 'serves nothing yet' : `serves build ${serves}`}
              </li>
            ))}
            {data.waits.map((one) => (
              <li key={one} className="text-warn">
                {one}
              </li>
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}
