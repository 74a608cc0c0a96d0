import type { ReactNode } from 'react';

/** A secret that is shown this once, to be copied: said aloud as it comes. */
export function ShownOnce({
  secret,
  children,
}: {
  readonly secret: string;
  readonly children: ReactNode;
}) {
  return (
    <p role="status" className="mt-2">
      {children} <code className="select-all [overflow-wrap:anywhere]">{secret}</code>
    </p>
  );
}
