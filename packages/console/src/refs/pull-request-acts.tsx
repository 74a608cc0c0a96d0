import { type PullRequestReply, pullRequestRoutes } from '@vaquero/contracts';
import { type ReactNode, useState } from 'react';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { useMay } from '../people/use-may.ts';
import { useMove } from '../releases/use-move.ts';

interface OfOne {
  readonly project: string;
  readonly pull: PullRequestReply;
}

/** The framed act of an open pull request: whether it merges cleanly, what that does, and the press. */
export function MergeAct({ project, pull }: OfOne) {
  const [open, setOpen] = useState(false);
  const { may, why } = useMay(pull.home, 'build');
  const { merge, head } = pull;
  const doIt = useMove(
    project,
    () =>
      api.call(pullRequestRoutes.mergePullRequestRoute, {
        params: { project, pullRequest: pull.name },
        body: { head: seen(head).commit, target: seen(merge).target },
      }),
    () => setOpen(false),
  );
  const bringIn = useMove(
    project,
    () =>
      api.call(pullRequestRoutes.bringInRoute, {
        params: { project, pullRequest: pull.name },
        body: { head: seen(head).commit, target: seen(merge).target },
      }),
    () => undefined,
  );
  if (merge === null || head === null) return null;
  if (pull.isDraft)
    return (
      <p className="mb-4 border-t border-rule pt-1 text-ink-2">
        It is a draft: built, and given no environment until it is ready.
      </p>
    );
  const isClean = merge.how === 'fast-forward' || merge.how === 'commit';
  return (
    <section aria-label="Merge" className="mb-4 border-2 border-ink bg-sheet p-3">
      <h2 className="font-serif text-section font-[560]">
        {isClean ? `It merges cleanly into ${pull.into}` : cannot(pull)}
      </h2>
      <ul className="mt-1">
        {merge.follows.map((line) => (
          <li key={line}>
            <Glyph name="automatic" /> {line}
          </li>
        ))}
        {merge.paths.map((path) => (
          <li key={path}>
            <code className="[overflow-wrap:anywhere]">{path}</code>
          </li>
        ))}
      </ul>
      {merge.how === 'conflicts' ? (
        <p className="mt-1 text-ink-2">
          Bring {pull.into} into <code>{pull.from.branch}</code>, settle these, and push.
        </p>
      ) : null}
      {isClean ? (
        <p className="mt-2 flex flex-wrap items-baseline gap-2">
          <Button
            tone="action"
            data-act="merge"
            disabled={!may || !merge.isHere}
            onClick={() => setOpen(true)}
          >
            Merge…
          </Button>
          {merge.how === 'commit' && merge.isHere && !pull.outsider ? (
            <Button
              data-act="bring-in"
              disabled={!may || bringIn.isPending}
              onClick={() => bringIn.mutate()}
            >
              {bringIn.isPending ? `Bringing ${pull.into} in` : `Bring ${pull.into} in`}
            </Button>
          ) : null}
          <span className="text-ink-2">
            {merge.isHere
              ? may
                ? ''
                : why
              : 'Its repository is not hosted here: merge it there; that is noticed.'}
          </span>
        </p>
      ) : null}
      {bringIn.isError ? <Failed error={bringIn.error} /> : null}
      <Sheet
        open={open}
        onOpenChange={setOpen}
        title={`Merge ${pull.name} into ${pull.into}?`}
        says={
          merge.how === 'commit'
            ? `A commit of both is made; ${pull.into} moves on to it.`
            : `${pull.into} moves on to ${head.commit.slice(0, 8)}, which is there already.`
        }
        acts={
          <Button tone="action" disabled={doIt.isPending} onClick={() => doIt.mutate()}>
            {doIt.isPending ? 'Merging' : `Merge ${pull.name}`}
          </Button>
        }
      >
        <ul>
          {merge.follows.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
        {doIt.isError ? <Failed error={doIt.error} /> : null}
      </Sheet>
    </section>
  );
}

/** What a press rests on: what the page shows is there. */
function seen<T>(value: T | null): T {
  if (value === null) throw new Error('nothing to merge is shown');
  return value;
}

function cannot({ merge, name, into }: PullRequestReply): string {
  if (merge?.how === 'conflicts') return `${name} and ${into} have both changed`;
  if (merge?.how === 'nothing') return `${into} has all of it already`;
  return `It cannot be merged: ${merge?.why ?? ''}`;
}

type Asked = 'close' | 'into' | 'draft';

/** Closing, opening again, another target: what changes what becomes of it, shut where one may not. */
export function Changes({ project, pull }: OfOne) {
  const [open, setOpen] = useState<Asked | null>(null);
  const [into, setInto] = useState(pull.into);
  const { may, why } = useMay(pull.home, 'build');
  const params = { project, pullRequest: pull.name };
  const shut = (): void => setOpen(null);
  // The page may show what an act did before its reply is here: the reply shuts its own sheet, never one opened since.
  const shutOwn = (own: Asked) => () => setOpen((now) => (now === own ? null : now));
  const close = useMove(
    project,
    () => api.call(pullRequestRoutes.closePullRequestRoute, { params }),
    shutOwn('close'),
  );
  const reopen = useMove(
    project,
    () => api.call(pullRequestRoutes.reopenPullRequestRoute, { params }),
    () => undefined,
  );
  const retarget = useMove(
    project,
    () => api.call(pullRequestRoutes.retargetPullRequestRoute, { params, body: { into } }),
    shutOwn('into'),
  );
  const setDraft = useMove(
    project,
    () => api.call(pullRequestRoutes.setDraftRoute, { params, body: { isDraft: !pull.isDraft } }),
    shutOwn('draft'),
  );
  if (pull.state === 'merged') return null;
  return (
    <section aria-label="What becomes of it" className="mt-4 border-t border-rule pt-2">
      {pull.state === 'closed' ? (
        <Button
          data-act="reopen"
          disabled={!may || reopen.isPending}
          onClick={() => reopen.mutate()}
        >
          Open again
        </Button>
      ) : (
        <span className="flex flex-wrap gap-2">
          <Button data-act="close" disabled={!may} onClick={() => setOpen('close')}>
            Close…
          </Button>
          <Button data-act="into" disabled={!may} onClick={() => setOpen('into')}>
            Into another branch…
          </Button>
          <Button
            data-act="draft"
            disabled={!may || setDraft.isPending}
            onClick={() =>
              pull.isDraft || pull.preview === null ? setDraft.mutate() : setOpen('draft')
            }
          >
            {pull.isDraft ? 'It is ready' : 'Make it a draft'}
          </Button>
        </span>
      )}
      {may ? null : <p className="mt-1 text-ink-2">{why}</p>}
      {reopen.isError ? <Failed error={reopen.error} /> : null}
      {setDraft.isError ? <Failed error={setDraft.error} /> : null}
      <Ask
        open={open === 'draft'}
        shut={shut}
        title={`Make ${pull.name} a draft?`}
        says={`Its commits are built as before; ${pull.preview?.name ?? 'its environment'} ends after its time, and is back once it is ready.`}
        act="Make it a draft"
        how={setDraft}
      />
      <Ask
        open={open === 'close'}
        shut={shut}
        title={`Close ${pull.name}?`}
        says={closing(pull)}
        act={`Close ${pull.name}`}
        how={close}
      />
      <Ask
        open={open === 'into'}
        shut={shut}
        title={`Merge ${pull.name} into another branch?`}
        says="Its environment goes where the map sends what is proposed into that branch."
        act={`Into ${into}`}
        how={retarget}
      >
        <TextField
          label="A branch that is there"
          value={into}
          onChange={(event) => setInto(event.currentTarget.value)}
        />
      </Ask>
    </section>
  );
}

function closing({ preview }: PullRequestReply): string {
  return preview === null
    ? 'It is followed no more; what was built of it stays.'
    : `It is followed no more, and ${preview.name} ends after its time; what was built of it stays.`;
}

function Ask({
  open,
  shut,
  title,
  says,
  act,
  how,
  children,
}: {
  readonly open: boolean;
  readonly shut: () => void;
  readonly title: string;
  readonly says: string;
  readonly act: string;
  readonly how: {
    readonly isPending: boolean;
    readonly isError: boolean;
    readonly error: Error | null;
    readonly mutate: () => void;
  };
  readonly children?: ReactNode;
}) {
  return (
    <Sheet
      open={open}
      onOpenChange={(isOpen) => (isOpen ? undefined : shut())}
      title={title}
      says={says}
      acts={
        <Button tone="action" disabled={how.isPending} onClick={() => how.mutate()}>
          {act}
        </Button>
      }
    >
      {children}
      {how.isError && how.error !== null ? <Failed error={how.error} /> : null}
    </Sheet>
  );
}
