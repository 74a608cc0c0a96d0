import { useMutation, useQuery } from '@tanstack/react-query';
import { projectRoutes } from '@vaquero/contracts';
import { useDeferredValue, useState } from 'react';
import { useNavigate } from 'react-router';
import { api, queries } from '../http/api.ts';
import { type FoundThere, type Source, sourceIn } from './source-fields.tsx';
import { nameTrialOf } from './trials.ts';

const nothingYet: Source = {
  kind: 'hosted',
  place: '',
  user: 'git',
  secret: '',
  isPrivate: false,
  sshKey: null,
};

/** What is built first. */
export type Begin = 'now' | 'next-push';

/** A project as somebody fills it in, with what is known of it meanwhile: its name, what is at its repository, its recipe. */
export function useNewProject() {
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const [source, setSource] = useState<Source>(nothingYet);
  const [found, setFound] = useState<FoundThere | null>(null);
  const [branch, setBranch] = useState('main');
  const [folder, setFolder] = useState('');
  const [edited, setEdited] = useState<string | null>(null);
  const [begin, setBegin] = useState<Begin>('now');
  const [map, setMap] = useState<string | null>(null);
  const trial = useQuery(nameTrialOf(useDeferredValue(name), useDeferredValue(map)));
  const isThere = source.kind !== 'hosted';
  const recipe = found?.sight?.folders.find((one) => one.folder === folder)?.recipe ?? null;
  const make = useMutation({
    mutationFn: () =>
      api.call(projectRoutes.makeProjectRoute, {
        body: {
          name,
          branch,
          folder,
          repository: sourceIn(source),
          recipe: recipe?.from === 'proposed' ? edited : null,
          begin: isThere ? begin : 'now',
          map,
        },
      }),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['projects'] });
      await navigate(`/p/${name}`);
    },
  });
  // Another branch, or a folder that was not found, is read anew.
  const look = useMutation({
    mutationFn: (wish: { readonly branch: string; readonly folder: string }) =>
      api.call(projectRoutes.tryProjectRoute, {
        body: { name: '', repository: sourceIn(source), ...wish },
      }),
    onSuccess: ({ repository }) => setFound(repository),
  });
  const read = (there: FoundThere): void => {
    const { branches, first, sight } = there;
    setFound(there);
    setEdited(null);
    setBranch(sight?.branch ?? first ?? branches[0] ?? 'main');
  };
  const change = (now: Source): void => {
    setSource(now);
    setFound(null);
    setEdited(null);
  };
  return {
    name,
    setName,
    source,
    change,
    found,
    read,
    branch,
    chooseBranch: (now: string): void => {
      setBranch(now);
      if (found !== null) look.mutate({ branch: now, folder });
    },
    folder,
    chooseFolder: (now: string): void => {
      setFolder(now);
      setEdited(null);
    },
    look,
    recipe,
    edited,
    setEdited,
    map,
    setMap,
    begin,
    setBegin,
    isThere,
    trial,
    make,
  };
}
