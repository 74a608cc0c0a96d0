/** Where it will answer, and what its first map says. */
export function WhatComes({
  addresses,
  branch,
}: {
  readonly addresses: readonly { readonly environment: string; readonly address: string }[];
  readonly branch: string;
}) {
  return (
    <section aria-label="What it will be">
      <h2 className="border-b border-rule-2 pb-0.5">
        <b className="font-[650]">What it will be</b>{' '}
        <span className="text-ink-2">by its first map, which you can set otherwise</span>
      </h2>
      <ul>
        {addresses.map(({ environment, address }) => (
          <li key={environment} className="border-b border-rule py-0.5">
            {environment} <code className="[overflow-wrap:anywhere]">{address}</code>
          </li>
        ))}
        {addresses.length === 0 ? (
          <li className="border-b border-rule py-0.5 text-ink-2">
            Its addresses stand here once it has a name.
          </li>
        ) : null}
        <li className="py-0.5 text-ink-2">
          staging follows <code>{branch}</code>, production takes what staging serves, and each pull
          request into <code>{branch}</code> has a preview of its own.
        </li>
      </ul>
    </section>
  );
}
