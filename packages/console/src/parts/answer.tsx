import type { ReactNode } from 'react';

/** The sentence a page opens with, and the line below it. */
export function AnswerLine({
  children,
  below,
}: {
  readonly children: ReactNode;
  readonly below?: ReactNode;
}) {
  return (
    <div className="pb-3 pt-3">
      <h1 className="font-serif text-answer font-[560] max-sm:text-[1.1875rem] max-sm:leading-6">
        {children}
      </h1>
      {below === undefined ? null : <p className="mt-1 text-ink-2">{below}</p>}
    </div>
  );
}
