import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { whyOf } from './map-of.ts';

/** Asks where a ref goes, and which rules say so. */
export function WhyBox({ project }: { readonly project: string }) {
  const [said, setSaid] = useState('');
  const [ref, ask] = useState('');
  const { data, error } = useQuery({ ...whyOf(project, ref), enabled: ref !== '' });
  return (
    <section aria-label="Where a ref goes" className="mt-4 border-t border-rule pt-2">
      <form
        className="flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          ask(said.trim());
        }}
      >
        <TextField
          label="Where does it go, and why? A branch, a tag, pr-12"
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
            {data.commit === null ? '. The repository has no such ref now.' : '.'}
          </p>
          <ul>
            {data.answers.map(({ rule, isMatch, why }) => (
              <li key={rule} className={isMatch ? '' : 'text-ink-2'}>
                <Glyph name={isMatch ? 'passed' : 'skipped'} /> {rule}: {why}
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
