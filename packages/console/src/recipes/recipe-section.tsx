import { useMutation, useQuery } from '@tanstack/react-query';
import { type RecipeReply, recipeRoutes } from '@vaquero/contracts';
import { type FormEvent, useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { useMay } from '../people/use-may.ts';
import { projectsSeen } from '../projects/projects-seen.ts';
import { RecipeDownload } from './recipe-download.tsx';
import { RecipeText, recipeFaultsIn } from './recipe-text.tsx';

/** The recipe as the file that it is or would be: taken along, or written otherwise and committed where the repository is hosted here. */
export function RecipeSection({
  project,
  recipe: { asFile, commit, inForce },
}: {
  readonly project: string;
  readonly recipe: RecipeReply;
}) {
  const { data: projects } = useQuery(projectsSeen);
  const seen = projects?.find(({ name }) => name === project);
  const { may, why } = useMay(seen?.repository.home ?? project, 'build');
  const [edited, setEdited] = useState<string | null>(null);
  if (asFile === null || seen === undefined) return null;
  const isHosted = seen.repository.kind === 'hosted';
  const mayWrite = isHosted && may && seen.endedAt === null;
  const source = inForce?.source;
  const because = source?.from === 'proposed' ? [...source.because, ...source.warnings] : [];
  const text = edited ?? asFile;
  return (
    <section aria-label="Recipe" className="mt-4">
      <h2 className="pb-1">
        <b className="font-[650]">Recipe</b>{' '}
        <span className="text-ink-2">
          {source?.from === 'file' ? 'as it is read' : 'as the file that it would be'}
        </span>
      </h2>
      <RecipeText
        text={text}
        isReadOnly={!mayWrite}
        onChange={(now) => setEdited(now === asFile ? null : now)}
      />
      <p className="mt-1">
        <RecipeDownload text={text} />
      </p>
      {mayWrite ? (
        <CommitForm
          project={project}
          branch={seen.branch}
          head={commit}
          text={text}
          isNews={edited !== null || source?.from !== 'file'}
          onDone={() => setEdited(null)}
        />
      ) : (
        <p className="mt-1 text-ink-2">
          {isHosted ? why : 'Its repository lies elsewhere: it is changed by a commit there.'}
        </p>
      )}
      {because.length === 0 ? null : (
        <ul className="mt-2 text-ink-2">
          {because.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
      )}
    </section>
  );
}

interface Committing {
  readonly project: string;
  readonly branch: string;
  readonly head: RecipeReply['commit'];
  readonly text: string;
  /** Whether a commit of it would change anything. */
  readonly isNews: boolean;
  readonly onDone: () => void;
}

function CommitForm({ project, branch, head, text, isNews, onDone }: Committing) {
  const [message, setMessage] = useState('');
  const commit = useMutation({
    mutationFn: () =>
      api.call(recipeRoutes.commitRecipeRoute, {
        params: { project },
        body: { text, message, head },
      }),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [project] });
      setMessage('');
      onDone();
    },
  });
  const isSound = recipeFaultsIn(text).length === 0;
  const send = (event: FormEvent): void => {
    event.preventDefault();
    commit.mutate();
  };
  return (
    <form onSubmit={send} aria-label="Commit the recipe" className="mt-2">
      <div className="flex flex-wrap items-end gap-3">
        <TextField
          label="What is to stand on the commit"
          className="w-96 max-w-full"
          required
          maxLength={200}
          value={message}
          onChange={(event) => setMessage(event.currentTarget.value)}
        />
        <Button
          type="submit"
          disabled={!isNews || !isSound || message.trim() === '' || commit.isPending}
        >
          {commit.isPending ? 'Committing it' : `Commit it to ${branch}`}
        </Button>
      </div>
      <p role="status" className="mt-1 text-ink-2">
        {!isSound
          ? 'It cannot be read so: its faults stand in its text.'
          : commit.isSuccess && !isNews
            ? `It is committed as ${commit.data.commit.slice(0, 7)}, and built.`
            : isNews
              ? 'A commit of it is built like a push.'
              : 'It stands in the repository as it is.'}
      </p>
      {commit.isError ? <Failed error={commit.error} /> : null}
    </form>
  );
}
