import type { ReactNode } from 'react';

/** An act among the words of a row: it opens a sheet, or says whose it is. */
export function ActLink({
  act,
  may,
  who,
  onClick,
  children,
}: {
  /** What it does, for tests and styles. */
  readonly act: string;
  readonly may: boolean;
  readonly who: string;
  readonly onClick: () => void;
  readonly children: ReactNode;
}) {
  return (
    <button
      type="button"
      data-act={act}
      disabled={!may}
      title={may ? undefined : `This takes ${who}.`}
      className="text-action underline underline-offset-2 disabled:text-ink-3 disabled:no-underline"
      onClick={onClick}
    >
      {children}
    </button>
  );
}
