import type { ReactNode } from 'react';
import { FootIndex } from './foot-index.tsx';
import { KeysSheet } from './keys-sheet.tsx';
import { TopLine } from './top-line.tsx';

/** The frame of every page: top line, what the page says, and, of a project, the index at the foot. */
export function Frame({
  project,
  children,
}: {
  readonly project: string | null;
  readonly children: ReactNode;
}) {
  return (
    <>
      <TopLine project={project} />
      <main className="flex flex-1 flex-col px-4 pb-6">{children}</main>
      {project === null ? null : (
        <>
          <FootIndex project={project} />
          <KeysSheet />
        </>
      )}
    </>
  );
}
