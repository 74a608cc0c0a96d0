import { defaultMap } from '@vaquero/core';
import { MapText } from '../map/map-text.tsx';
import { Button } from '../parts/button.tsx';

/** Where it will answer, and by which map: the usual one, or one that is written here. */
export function WhatComes({
  addresses,
  name,
  branch,
  map,
  onMap,
}: {
  readonly addresses: readonly { readonly environment: string; readonly address: string }[];
  readonly name: string;
  readonly branch: string;
  /** What somebody has written; null while it is the usual one. */
  readonly map: string | null;
  readonly onMap: (map: string | null) => void;
}) {
  return (
    <section aria-label="What it will be">
      <h2 className="border-b border-rule-2 pb-0.5">
        <b className="font-[650]">What it will be</b>{' '}
        <span className="text-ink-2">by its first map, which can be set anew at any time</span>
      </h2>
      <ul>
        {addresses.map(({ environment, address }) => (
          <li key={environment} className="border-b border-rule py-0.5">
            {environment} <code className="[overflow-wrap:anywhere]">{address}</code>
          </li>
        ))}
        {addresses.length === 0 ? (
          <li className="border-b border-rule py-0.5 text-ink-2">
            {name === ''
              ? 'Its addresses stand here once it has a name.'
              : 'No environment of a name of its own, so no address before the first commit.'}
          </li>
        ) : null}
        {map === null ? (
          <li className="py-0.5 text-ink-2">
            staging follows <code>{branch}</code>, production takes what staging serves, and each
            pull request into <code>{branch}</code> has a preview of its own.
          </li>
        ) : null}
      </ul>
      {map === null ? (
        <Button onClick={() => onMap(defaultMap(name === '' ? 'project' : name, branch))}>
          Write the map otherwise
        </Button>
      ) : (
        <>
          <div className="mt-2 [&_.cm-editor]:max-h-80">
            <MapText
              text={map}
              names={[branch, 'production', 'staging', 'preview']}
              isReadOnly={false}
              onChange={onMap}
            />
          </div>
          <p className="mt-1">
            <Button onClick={() => onMap(null)}>The usual map</Button>
          </p>
        </>
      )}
    </section>
  );
}
