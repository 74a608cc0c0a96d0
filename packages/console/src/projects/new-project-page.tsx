import { useQuery } from '@tanstack/react-query';
import { may } from '@vaquero/core';
import type { FormEvent } from 'react';
import { Page } from '../frame/page.tsx';
import { mapFaultsIn } from '../map/map-text.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Choice, TextField } from '../parts/field.tsx';
import { mine } from '../people/mine.ts';
import { recipeFaultsIn } from '../recipes/recipe-text.tsx';
import { FirstRecipe } from './first-recipe.tsx';
import { FirstSightShown } from './first-sight.tsx';
import { FolderField } from './folder-field.tsx';
import { isNamed, type Source, SourceFields } from './source-fields.tsx';
import { type Begin, useNewProject } from './use-new-project.ts';
import { WhatComes } from './what-comes.tsx';

/** Making a project: all of it on one page, and what it will be called and answer at while one types. */
export function NewProjectPage() {
  const asked = useQuery(mine);
  return (
    <Page project={null} title="A new project" what="who you are" asked={asked}>
      {({ grants }) => (
        <>
          <AnswerLine below="A name, a repository, and which of its branches is the project’s own. Each of them can be changed later.">
            {may(grants, 'operate', null)
              ? 'What is it called, and where does it lie?'
              : 'Only an operator makes a project; ask one of them.'}
          </AnswerLine>
          {may(grants, 'operate', null) ? <NewProject /> : null}
        </>
      )}
    </Page>
  );
}

const begins = [
  ['now', 'build its newest commit now'],
  ['next-push', 'build nothing before the next push'],
] as const;

function NewProject() {
  const wanted = useNewProject();
  const { name, source, found, branch, folder, recipe, edited, trial, make, look } = wanted;
  const fault = trial.data?.fault ?? null;
  const isRecipe = edited === null || recipeFaultsIn(edited).length === 0;
  const isMap = wanted.map === null || mapFaultsIn(wanted.map).length === 0;
  const isReady = name !== '' && fault === null && isNamed(source) && isRecipe && isMap;
  const send = (event: FormEvent): void => {
    event.preventDefault();
    make.mutate();
  };
  const branches = found?.branches ?? [];
  return (
    <form onSubmit={send} className="grid gap-6 border-t border-rule-2 pt-3 lg:grid-cols-2">
      <div className="flex min-w-0 flex-col gap-3">
        <NameField
          name={name}
          fault={fault}
          free={trial.data?.free ?? []}
          onChange={wanted.setName}
        />
        <SourceFields source={source} change={wanted.change} read={wanted.read} />
        {found?.unseen == null ? null : <p role="status">{found.unseen}</p>}
        {found?.sight == null ? null : <FirstSightShown sight={found.sight} />}
        {branches.length > 0 ? (
          <Choice
            label="Its own branch: what staging follows"
            className="w-72 max-w-full"
            value={branch}
            choices={branches.map((one) => [one, one] as const)}
            onChange={(event) => wanted.chooseBranch(event.currentTarget.value)}
          />
        ) : (
          <TextField
            label="Its own branch: what staging follows"
            className="w-72 max-w-full font-mono"
            required
            value={branch}
            onChange={(event) => wanted.chooseBranch(event.currentTarget.value)}
          />
        )}
        <FolderField
          folder={folder}
          found={found?.sight?.folders.map((one) => one.folder) ?? []}
          onChange={wanted.chooseFolder}
          onLook={found === null ? null : (now) => look.mutate({ branch, folder: now })}
        />
        {look.isError ? <Failed error={look.error} /> : null}
      </div>
      <div className="flex min-w-0 flex-col gap-3">
        {recipe === null ? null : (
          <FirstRecipe key={folder} recipe={recipe} edited={edited} onEdit={wanted.setEdited} />
        )}
        <WhatComes
          addresses={trial.data?.addresses ?? []}
          name={name}
          branch={branch}
          map={wanted.map}
          onMap={wanted.setMap}
        />
        <div className="border-2 border-ink bg-sheet p-3">
          {wanted.isThere ? (
            <Choice
              label="What is built first"
              className="mb-2 w-72 max-w-full"
              value={wanted.begin}
              choices={begins}
              onChange={(event) =>
                wanted.setBegin(
                  begins.find(([one]) => one === event.currentTarget.value)?.[0] ?? 'now',
                )
              }
            />
          ) : null}
          <Button tone="action" type="submit" disabled={!isReady || make.isPending}>
            {make.isPending ? 'Making it' : `Make ${name === '' ? 'it' : name}`}
          </Button>
          <p className="mt-1 text-ink-2">{whatThen(source, wanted.begin)}</p>
          {isRecipe && isMap ? null : (
            <p role="status" className="mt-1 text-bad">
              {isRecipe ? 'The map' : 'The recipe'} cannot be read: its faults stand in its text.
            </p>
          )}
          {make.isError ? <Failed error={make.error} /> : null}
        </div>
      </div>
    </form>
  );
}

function whatThen({ kind }: Source, begin: Begin): string {
  if (kind === 'hosted') return 'Its repository is empty and waits for a push.';
  return begin === 'now'
    ? 'Its newest commit is built at once.'
    : 'What is there stays unbuilt; the next push is built.';
}

function NameField({
  name,
  fault,
  free,
  onChange,
}: {
  readonly name: string;
  readonly fault: string | null;
  readonly free: readonly string[];
  readonly onChange: (name: string) => void;
}) {
  return (
    <>
      <TextField
        label="Its name: a–z, 0–9, hyphens"
        className="w-72 max-w-full"
        required
        autoComplete="off"
        fault={fault ?? undefined}
        value={name}
        onChange={(event) => onChange(event.currentTarget.value.toLowerCase())}
      />
      {free.length === 0 ? null : (
        <p>
          Free:{' '}
          {free.map((one) => (
            <button
              key={one}
              type="button"
              className="mr-3 text-action underline"
              onClick={() => onChange(one)}
            >
              {one}
            </button>
          ))}
        </p>
      )}
    </>
  );
}
