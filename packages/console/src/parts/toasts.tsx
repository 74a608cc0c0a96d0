import { Toast } from 'radix-ui';
import { Link } from 'react-router';
import { Glyph, type GlyphName } from './glyph.tsx';

/** What ended elsewhere, in a sentence, with where it is seen. */
export interface Telling {
  readonly id: string;
  readonly glyph: GlyphName;
  readonly says: string;
  readonly more: string;
  readonly to: string;
}

const lastsMs = 12_000;

/**
 * Sentences in a corner, each for twelve seconds, longer while one is read or the window is not looked at; F8 goes to
 * them, Escape closes one. Readers of the screen hear them without leaving what they do.
 */
export function Toasts({
  tellings,
  onGone,
}: {
  readonly tellings: readonly Telling[];
  readonly onGone: (id: string) => void;
}) {
  return (
    <Toast.Provider label="Told" duration={lastsMs} swipeDirection="right">
      {tellings.map(({ id, glyph, says, more, to }) => (
        <Toast.Root
          key={id}
          onOpenChange={(open) => {
            if (!open) onGone(id);
          }}
          className="flex items-start gap-2 border-2 border-ink bg-sheet px-3 py-2"
        >
          <Glyph name={glyph} className="mt-1" />
          <div className="min-w-0 flex-1">
            <Toast.Title className="font-[650] [overflow-wrap:anywhere]">
              <Link to={to} onClick={() => onGone(id)}>
                {says}
              </Link>
            </Toast.Title>
            <Toast.Description className="text-ink-2 [overflow-wrap:anywhere]">
              {more}
            </Toast.Description>
          </div>
          <Toast.Close
            aria-label={`Close: ${says}`}
            className="border border-control px-2 text-ink-2 pointer-coarse:min-h-11"
          >
            Close
          </Toast.Close>
        </Toast.Root>
      ))}
      <Toast.Viewport
        label="Told ({hotkey})"
        className="fixed right-4 bottom-14 z-30 m-0 flex w-[min(26rem,calc(100vw-2rem))] list-none flex-col gap-2 p-0"
      />
    </Toast.Provider>
  );
}
