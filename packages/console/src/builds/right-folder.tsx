import { type BuildReply, recipeRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/frame.tsx';
import { counted } from '../parts/words.ts';
import { useBuildAgain } from './use-build-again.ts';

interface OneMorePressProps {
  readonly project: string;
  readonly build: BuildReply;
}

/** After a build whose output folder was wrong: the folders that look right, each to be taken with one press. */
export function RightFolder({ project, build }: OneMorePressProps) {
  const again = useBuildAgain(project, build.number);
  const { reason } = build;
  const folders = reason !== null && 'folders' in reason ? reason.folders : [];
  // A recipe file wins over what is accepted here: it is corrected where it stands.
  if (folders.length === 0 || build.recipe?.source.from === 'file') return null;
  const take = (site: string): void =>
    again.mutate({
      first: () =>
        api.call(recipeRoutes.acceptRecipeRoute, { params: { project }, body: { site } }),
    });
  return (
    <>
      {folders.slice(0, 3).map(({ folder, files }) => (
        <p key={folder} className="mt-1.5">
          <Button tone="action" disabled={again.isPending} onClick={() => take(folder)}>
            Serve {folder} ({counted(files, 'file')}) and build again
          </Button>
        </p>
      ))}
      {again.isError ? <Failed error={again.error} /> : null}
    </>
  );
}

/** After a build that was stopped for nothing but being much smaller than what is live: that it is meant. */
export function MeantSmaller({ project, build }: OneMorePressProps) {
  const again = useBuildAgain(project, build.number);
  const { reason } = build;
  const isSize =
    reason?.reason === 'inspection' && reason.findings.every(({ rule }) => rule === 'shrank');
  if (!isSize) return null;
  return (
    <>
      <p className="mt-1.5">
        <Button
          tone="action"
          disabled={again.isPending}
          onClick={() => again.mutate({ meant: true })}
        >
          It is meant to be smaller: build again
        </Button>
      </p>
      {again.isError ? <Failed error={again.error} /> : null}
    </>
  );
}
