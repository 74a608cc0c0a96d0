import { Dialog } from 'radix-ui';
import { type ReactNode, useRef } from 'react';
import { Button } from './button.tsx';

interface SheetProps {
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
  readonly title: string;
  readonly says: string;
  readonly children: ReactNode;
  readonly acts: ReactNode;
  /** What closes it without the act. */
  readonly leave?: string;
}

/** The one framed box of a page: around the act that changes an environment. */
export function Sheet(props: SheetProps) {
  const { open, onOpenChange, title, says, children, acts, leave = 'Leave it' } = props;
  const opener = useRef<Element | null>(null);
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-10 bg-ink/25" />
        <Dialog.Content
          onOpenAutoFocus={() => {
            opener.current = document.activeElement;
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            giveFocusTo(opener.current);
          }}
          className="fixed left-1/2 top-[12vh] z-20 max-h-[80vh] w-[min(34rem,calc(100vw-2rem))] -translate-x-1/2 overflow-auto border-2 border-ink bg-sheet p-4"
        >
          <Dialog.Title className="font-serif text-section font-[560]">{title}</Dialog.Title>
          <Dialog.Description className="mt-1 text-ink-2">{says}</Dialog.Description>
          <div className="mt-3">{children}</div>
          <div className="mt-4 flex flex-wrap items-center justify-end gap-2">
            <Dialog.Close asChild>
              <Button>{leave}</Button>
            </Dialog.Close>
            {acts}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** The focus goes back to what opened the sheet; where the act took that away, to the sentence of the page. */
function giveFocusTo(opener: Element | null): void {
  const isThere = opener instanceof HTMLElement && opener.isConnected && opener !== document.body;
  const heading = document.querySelector('h1');
  if (isThere && !opener.matches(':disabled')) opener.focus();
  else if (heading !== null) {
    heading.tabIndex = -1;
    heading.focus();
  }
}
