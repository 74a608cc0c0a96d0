import { Dialog } from 'radix-ui';
import type { ReactNode } from 'react';
import { Button } from './button.tsx';

interface SheetProps {
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
  readonly title: string;
  readonly says: string;
  readonly children: ReactNode;
  readonly acts: ReactNode;
}

/** The one framed box of a page: around the act that changes an environment. */
export function Sheet({ open, onOpenChange, title, says, children, acts }: SheetProps) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-10 bg-ink/25" />
        <Dialog.Content className="fixed left-1/2 top-[12vh] z-20 max-h-[80vh] w-[min(34rem,calc(100vw-2rem))] -translate-x-1/2 overflow-auto border-2 border-ink bg-sheet p-4">
          <Dialog.Title className="font-serif text-section font-[560]">{title}</Dialog.Title>
          <Dialog.Description className="mt-1 text-ink-2">{says}</Dialog.Description>
          <div className="mt-3">{children}</div>
          <div className="mt-4 flex flex-wrap items-center justify-end gap-2">
            <Dialog.Close asChild>
              <Button>Leave it</Button>
            </Dialog.Close>
            {acts}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
