import { useMutation } from '@tanstack/react-query';
import { type BuildReply, buildRoutes, recipeRoutes } from '@vaquero/contracts';
import { useNavigate } from 'react-router';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/frame.tsx';
import { counted } from '../parts/words.ts';

interface RightFolderProps {
  readonly project: string;
  readonly build: BuildReply;
}

/** After a build whose output folder was wrong: the folders that look right, each to be taken with one press. */
export function RightFolder({ project, build }: RightFolderProps) {
  const navigate = useNavigate();
  const take = useMutation({
    mutationFn: async (site: string) => {
      await api.call(recipeRoutes.acceptRecipeRoute, { params: { project }, body: { site } });
      return api.call(buildRoutes.buildAgainRoute, {
        params: { project },
        body: { build: build.number },
      });
    },
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: [project] });
      await navigate(`/p/${project}/builds/${made.number}`);
    },
  });
  const { reason } = build;
  const folders = reason !== null && 'folders' in reason ? reason.folders : [];
  // A recipe file wins over what is accepted here: it is corrected where it stands.
  if (folders.length === 0 || build.recipe?.source.from === 'file') return null;
  return (
    <>
      {folders.slice(0, 3).map(({ folder, files }) => (
        <p key={folder} className="mt-1.5">
          <Button tone="action" disabled={take.isPending} onClick={() => take.mutate(folder)}>
            Serve {folder} ({counted(files, 'file')}) and build again
          </Button>
        </p>
      ))}
      {take.isError ? <Failed error={take.error} /> : null}
    </>
  );
}
