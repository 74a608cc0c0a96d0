import type { Instant } from '@vaquero/core';
import { Button } from '../parts/button.tsx';
import type { Showing } from './shown.ts';
import { spans } from './window-of.ts';

/** How much time the lanes show, and the way to earlier and later. */
export function WindowControls({
  showing,
  around,
}: {
  readonly showing: Showing;
  /** The instant that is looked at: it stays in sight. */
  readonly around: Instant | null;
}) {
  return (
    <fieldset aria-label="What the lanes show" className="flex flex-wrap gap-1">
      {spans.map((span) => (
        <Button
          key={span.key}
          aria-pressed={span === showing.span}
          className="px-2 aria-pressed:border-ink aria-pressed:font-[650]"
          onClick={() => showing.show(span, around)}
        >
          {span.says}
        </Button>
      ))}
      <Button className="ml-2 px-2" onClick={() => showing.pan(-1)}>
        Earlier
      </Button>
      <Button className="px-2" disabled={showing.until === null} onClick={() => showing.pan(1)}>
        Later
      </Button>
      <Button className="px-2" disabled={showing.until === null} onClick={showing.toPresent}>
        Now
      </Button>
    </fieldset>
  );
}
