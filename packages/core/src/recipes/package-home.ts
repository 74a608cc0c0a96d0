import { below, type CommitView, type FolderView, viewBelow } from './commit-view.ts';
import {
  hasLock,
  type Manager,
  managerOf,
  type Workspace,
  workspacesOf,
} from './package-manager.ts';

/** Where the packages of a folder are installed: in itself, in the repository's root that it is a workspace of, or in a folder above. */
export interface Home {
  readonly view: FolderView;
  /** How a path below it is written in the recipe. */
  readonly path: (inside: string) => string;
  /** The folder its commands run in, below the project's; null: the project's own. */
  readonly in: string | null;
  /** What leads there from where a command begins, if it is not where it begins. */
  readonly enter: string;
  /** The folder of the package, as a workspace of it; null: the package is the home's own. */
  readonly workspace: Workspace | null;
  readonly manager: Manager;
  readonly beyond: readonly string[];
}

/** Finds where the packages of a folder of the view are installed. */
export function homeOf(view: CommitView, folder: string): Home {
  const own = viewBelow(view, folder);
  const { around } = view;
  const plain = (home: string, workspace: Workspace | null): Home => ({
    view: viewBelow(view, home),
    path: (inside) => below(home, inside),
    in: home === '' ? null : home,
    enter: '',
    workspace,
    manager: managerOf(viewBelow(view, home)),
    beyond: [],
  });
  if (hasLock(own)) return plain(folder, null);
  const space = workspacesOf(view).find((one) => one.folder === folder);
  if (folder !== '' && space !== undefined) return plain('', space);
  const outer =
    around === null || folder !== ''
      ? undefined
      : workspacesOf(around).find((one) => one.folder === around.folder);
  if (around === null || outer === undefined) return plain(folder, null);
  const ups = around.folder.split('/').map(() => '..');
  const rootFiles = around.paths.filter((path) => !path.includes('/')).slice(0, 50);
  const others = workspacesOf(around).map((one) => one.folder.split('/')[0] ?? '');
  return {
    view: around,
    path: (inside) => `/${inside}`,
    in: null,
    enter: `cd ${ups.join('/')} && `,
    workspace: outer,
    manager: managerOf(around),
    beyond: [...new Set([...rootFiles, ...managerFolders(around), ...others])].map(
      (path) => `/${path}`,
    ),
  };
}

/** Folders that a package manager reads at a root. */
function managerFolders({ paths }: FolderView): readonly string[] {
  return ['.yarn', 'patches'].filter((name) => paths.some((path) => path.startsWith(`${name}/`)));
}

/** The folders whose manifests decide what is installed at a home. */
export function involved({ view }: Home): readonly string[] {
  return ['', ...workspacesOf(view).map((one) => one.folder)];
}
