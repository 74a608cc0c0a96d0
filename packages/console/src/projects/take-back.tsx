import { useMutation } from '@tanstack/react-query';
import { credentialRoutes } from '@vaquero/contracts';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';

/** Takes back what a repository is read with. */
export function TakeBack({ project }: { readonly project: string }) {
  const takeBack = useMutation({
    mutationFn: () => api.call(credentialRoutes.dropCredentialRoute, { params: { project } }),
    onSettled: () => queries.invalidateQueries({ queryKey: ['projects'] }),
  });
  return (
    <>
      <Button disabled={takeBack.isPending} onClick={() => takeBack.mutate()}>
        Take it back
      </Button>
      {takeBack.isError ? <Failed error={takeBack.error} /> : null}
    </>
  );
}
