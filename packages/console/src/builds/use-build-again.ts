import { useMutation } from '@tanstack/react-query';
import { buildRoutes } from '@vaquero/contracts';
import { useNavigate } from 'react-router';
import { api, queries } from '../http/api.ts';

/** What is said of a commit that is built again; `first` is done before, such as accepting another recipe. */
export interface BuildWish {
  readonly meant?: boolean;
  readonly first?: () => Promise<unknown>;
}

/** Builds the commit of a build again, and leads to the new one. */
export function useBuildAgain(project: string, build: number) {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: async ({ first, meant = false }: BuildWish) => {
      await first?.();
      return api.call(buildRoutes.buildAgainRoute, { params: { project }, body: { build, meant } });
    },
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: [project] });
      await navigate(`/p/${project}/builds/${made.number}`);
    },
  });
}
