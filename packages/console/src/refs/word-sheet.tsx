import { type PullRequestReply, pullRequestRoutes } from '@vaquero/contracts';
import { authorInWords } from '@vaquero/core';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { useMove } from '../releases/use-move.ts';

interface WordSheetProps {
  readonly project: string;
  readonly pull: PullRequestReply;
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
}

/** A member's word for an outsider's commit: what is built, and what it is not given, is said first. */
export function WordSheet({ project, pull, open, onOpenChange }: WordSheetProps) {
  const { head } = pull;
  const give = useMove(
    project,
    async () => {
      if (head === null) return;
      await api.call(pullRequestRoutes.giveWordRoute, {
        params: { project, pullRequest: pull.name },
        body: { commit: head.commit },
      });
    },
    () => onOpenChange(false),
  );
  if (head === null) return null;
  return (
    <Sheet
      open={open}
      onOpenChange={onOpenChange}
      title={`Build ${head.commit.slice(0, 8)}, code of an outsider?`}
      says="It runs behind the walls, is given no variable or secret, and shares no cache and no result with trusted builds. What it makes reaches no environment."
      acts={
        <Button tone="action" disabled={give.isPending} onClick={() => give.mutate()}>
          {give.isPending ? 'Giving the word' : 'Build this commit'}
        </Button>
      }
    >
      <p>
        <span className="said">“{head.subject}”</span> by {authorInWords(head)}, of{' '}
        <code className="[overflow-wrap:anywhere]">{pull.from.place}</code>
      </p>
      <p className="mt-1 text-ink-2">
        The word is for this commit. What is pushed after it waits for another one.
      </p>
      {give.isError ? <Failed error={give.error} /> : null}
    </Sheet>
  );
}
