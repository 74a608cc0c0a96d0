import { useMutation } from '@tanstack/react-query';
import { credentialRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Choice } from '../parts/field.tsx';

/** A key that was made, and the key of its host that was confirmed; null while it is not. */
export interface KeyTaken {
  readonly key: string;
  readonly hostKey: string | null;
}

type Made = Awaited<ReturnType<typeof makeFor>>;

/** For a project that is to be made: by its address. For one that is there: by its name. */
export type KeyFor = { readonly url: string } | { readonly project: string };

const makeFor = (wanted: KeyFor) =>
  'url' in wanted
    ? api.call(credentialRoutes.makeKeyRoute, { body: wanted })
    : api.call(credentialRoutes.makeProjectKeyRoute, { params: wanted });

/** Makes a key for a repository over SSH, shows its public half, and has the host's key confirmed. */
export function KeyFields({
  wanted,
  taken,
  onTaken,
}: {
  readonly wanted: KeyFor;
  readonly taken: KeyTaken | null;
  readonly onTaken: (taken: KeyTaken) => void;
}) {
  const make = useMutation({
    mutationFn: () => makeFor(wanted),
    onSuccess: ({ key }) => onTaken({ key, hostKey: null }),
  });
  return (
    <div className="flex basis-full flex-col gap-2">
      <div>
        <Button disabled={make.isPending} onClick={() => make.mutate()}>
          {make.isPending
            ? 'Making it'
            : make.data === undefined
              ? 'Make a key for it'
              : 'Make another key'}
        </Button>
      </div>
      {make.isError ? <Failed error={make.error} /> : null}
      {make.data === undefined || taken === null ? null : (
        <KeyShown
          made={make.data}
          hostKey={taken.hostKey}
          onHostKey={(hostKey) => onTaken({ key: make.data.key, hostKey })}
        />
      )}
    </div>
  );
}

function KeyShown({
  made: { publicKey, hostKeys },
  hostKey,
  onHostKey,
}: {
  readonly made: Made;
  readonly hostKey: string | null;
  readonly onHostKey: (hostKey: string | null) => void;
}) {
  return (
    <>
      <p role="status">
        Add this line where the repository lies, for reading alone:
        <code className="mt-1 block select-all border border-rule bg-well p-2 [overflow-wrap:anywhere]">
          {publicKey}
        </code>
      </p>
      <CopyLine text={publicKey} />
      <Choice
        label="The host’s own key, as whoever runs the host tells it"
        className="w-[36rem] max-w-full font-mono"
        value={hostKey ?? ''}
        choices={[
          ['', 'not compared yet'],
          ...hostKeys.map(
            ({ type, fingerprint }) => [fingerprint, `${type} ${fingerprint}`] as const,
          ),
        ]}
        onChange={(event) => onHostKey(event.currentTarget.value || null)}
      />
    </>
  );
}

/** Copies a line. Browsers let pages do so only over https and on the machine itself; elsewhere a click selects all of it. */
function CopyLine({ text }: { readonly text: string }) {
  const [says, setSays] = useState('');
  if (!window.isSecureContext) return null;
  const copy = (): void => {
    navigator.clipboard.writeText(text).then(
      () => setSays('It is copied.'),
      () => setSays('The browser does not let it be copied: select the line.'),
    );
  };
  return (
    <div className="flex items-center gap-3">
      <Button onClick={copy}>Copy it</Button>
      <span role="status" className="text-ink-2">
        {says}
      </span>
    </div>
  );
}
