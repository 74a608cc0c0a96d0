import { type BuildReply, recipeRoutes } from '@vaquero/contracts';
import { counted, testsStep } from '@vaquero/core';
import type { z } from 'zod';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';

import { useBuildAgain } from './use-build-again.ts';

type Wishes = z.input<typeof recipeRoutes.acceptRecipeRoute.body>;

interface Press {
  readonly says: string;
  /** What is accepted before it is built again. */
  readonly accepts?: Wishes;
  readonly meant?: boolean;
}

/** After a failure that one press cures: the folder, the site or the steps that are meant, and the build again. */
export function OnePress({
  project,
  build,
}: {
  readonly project: string;
  readonly build: BuildReply;
}) {
  const again = useBuildAgain(project, build.number);
  const presses = pressesFor(build);
  if (presses.length === 0) return null;
  const press = ({ accepts, meant = false }: Press): void =>
    again.mutate({
      meant,
      ...(accepts === undefined
        ? {}
        : {
            first: async () => {
              const params = { project };
              const { version } = await api.call(recipeRoutes.showRecipeRoute, { params });
              const seen = { seen: version, body: accepts };
              return api.call(recipeRoutes.acceptRecipeRoute, { params, ...seen });
            },
          }),
    });
  return (
    <>
      {presses.map((one) => (
        <p key={one.says} className="mt-1.5">
          <Button tone="action" disabled={again.isPending} onClick={() => press(one)}>
            {one.says}
          </Button>
        </p>
      ))}
      {again.isError ? <Failed error={again.error} /> : null}
    </>
  );
}

const mostPresses = 4;

function pressesFor({ reason, recipe }: BuildReply): readonly Press[] {
  if (reason === null) return [];
  if (reason.reason === 'inspection' && reason.findings.every(({ rule }) => rule === 'shrank'))
    return [{ says: 'It is meant to be smaller: build again', meant: true }];
  if (reason.reason === 'recipe-missing')
    return (reason.candidates ?? []).slice(0, mostPresses).map((candidate) => ({
      says: `Take ${candidate} and build again`,
      accepts: { candidate },
    }));
  // A recipe file wins over what is accepted here: it is corrected where it stands.
  if (recipe?.source.from === 'file') return [];
  if (reason.reason === 'step' && reason.step === testsStep)
    return [{ says: 'Leave the tests out and build again', accepts: { run: { [testsStep]: [] } } }];
  const folders = 'folders' in reason ? reason.folders : [];
  return folders.slice(0, mostPresses).map(({ folder, files }) => ({
    says: `Serve ${folder} (${counted(files, 'file')}) and build again`,
    accepts: { site: folder },
  }));
}
