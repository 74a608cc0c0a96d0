import { useMutation } from '@tanstack/react-query';
import { type FormEvent, type ReactNode, useState } from 'react';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';

/** Makes what is a member beside people: a group or a service, by a name that nobody else has and what it is called. */
export function NewMember({
  what,
  make,
  settled,
  children,
}: {
  readonly what: string;
  readonly make: (name: string, shownAs: string) => Promise<unknown>;
  readonly settled: () => unknown;
  /** What else is chosen for it. */
  readonly children?: ReactNode;
}) {
  const [name, setName] = useState('');
  const [shownAs, setShownAs] = useState('');
  const made = useMutation({
    mutationFn: () => make(name, shownAs.trim() === '' ? name : shownAs),
    onSuccess: () => {
      setName('');
      setShownAs('');
    },
    onSettled: settled,
  });
  const send = (event: FormEvent): void => {
    event.preventDefault();
    made.mutate();
  };
  return (
    <form onSubmit={send} aria-label={`A new ${what}`} className="border-t border-rule pt-2">
      <div className="flex flex-wrap items-end gap-3">
        <TextField
          label={`A new ${what}, by name`}
          required
          maxLength={40}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <TextField
          label="Called"
          maxLength={100}
          value={shownAs}
          onChange={(event) => setShownAs(event.currentTarget.value)}
        />
        {children}
        <Button type="submit" disabled={name.trim() === '' || made.isPending}>
          Make it
        </Button>
      </div>
      {made.isError ? <Failed error={made.error} /> : null}
    </form>
  );
}
