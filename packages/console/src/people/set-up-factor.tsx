import { useMutation } from '@tanstack/react-query';
import { secondFactorRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { encode } from 'uqr';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { CodeField } from './code-field.tsx';

interface SetUp {
  readonly name: string;
  readonly password: string;
  /** Of the one that holds, where one does. */
  readonly code?: string | undefined;
  /** Once the words were taken down. */
  readonly done: () => void;
}

/** Setting up a second factor: the picture that a program for codes reads, a code of it, then the recovery words. */
export function SetUpFactor({ name, password, code, done }: SetUp) {
  const [shown, setShown] = useState('');
  const begin = useMutation({
    mutationFn: () =>
      api.call(secondFactorRoutes.beginFactorRoute, { body: { name, password, code } }),
  });
  const confirm = useMutation({
    mutationFn: () =>
      api.call(secondFactorRoutes.confirmFactorRoute, { body: { name, password, code: shown } }),
  });
  if (confirm.isSuccess)
    return (
      <section aria-label="Recovery words" role="status" className="flex flex-col gap-3">
        <p>
          It holds from the next sign-in on. Without it each of these words opens once. Keep them
          elsewhere: they are shown this once.
        </p>
        <ul className="grid grid-cols-2 gap-x-4 font-mono select-all">
          {confirm.data.words.map((word) => (
            <li key={word}>{word}</li>
          ))}
        </ul>
        <Button tone="action" onClick={done}>
          I have them
        </Button>
      </section>
    );
  if (!begin.isSuccess)
    return (
      <div className="flex flex-col gap-3">
        {begin.isError ? <Failed error={begin.error} /> : null}
        <Button disabled={begin.isPending} data-act="factor" onClick={() => begin.mutate()}>
          Set up a second factor
        </Button>
      </div>
    );
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        confirm.mutate();
      }}
    >
      <p>Let a program for codes read this, or type the secret into it:</p>
      <Picture text={begin.data.address} />
      <code className="select-all [overflow-wrap:anywhere]">{begin.data.secret}</code>
      <CodeField label="A code that it shows" value={shown} onChange={setShown} />
      {confirm.isError ? <Failed error={confirm.error} /> : null}
      <Button type="submit" tone="action" disabled={confirm.isPending}>
        Let it hold
      </Button>
    </form>
  );
}

/** A text as a picture that cameras read (ISO/IEC 18004), dark on light in both themes. */
function Picture({ text }: { readonly text: string }) {
  const { data, size } = encode(text, { border: 2 });
  const path = data
    .flatMap((row, y) => row.flatMap((isDark, x) => (isDark ? [`M${x} ${y}h1v1h-1z`] : [])))
    .join('');
  return (
    <svg
      role="img"
      aria-label="The secret as a picture for a camera"
      viewBox={`0 0 ${size} ${size}`}
      className="w-48 bg-sheet text-ink [color-scheme:light]"
      shapeRendering="crispEdges"
    >
      <path d={path} fill="currentColor" />
    </svg>
  );
}
