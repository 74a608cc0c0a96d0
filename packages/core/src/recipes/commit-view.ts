/** What a package.json says, as far as a proposal asks. */
export interface PackageView {
  readonly name: string | null;
  readonly scripts: Readonly<Record<string, string>>;
  readonly dependencies: readonly string[];
  /** Whether some of them are folders of the repository, named by path. */
  readonly hasLocal: boolean;
  readonly workspaces: readonly string[];
  /** The manager it names, such as `pnpm@9.1.0`. */
  readonly packageManager: string | null;
}

/** A folder as a proposal looks at it: the paths below it, and what some of its files say. */
export interface FolderView {
  readonly paths: readonly string[];
  /** Those package.json files that parse, by their folders; that of the folder itself is empty. */
  readonly packages: Readonly<Record<string, PackageView>>;
  /** Texts of files that generators and package managers are told by, by their paths. */
  readonly configs: Readonly<Record<string, string>>;
}

/** The Node that a commit asks for. */
export interface WishedNode {
  /** The file that says so, and its words. */
  readonly from: string;
  readonly text: string;
  /** The line that is taken: the lowest that satisfies it, or else the next above. */
  readonly line: number;
  readonly isMet: boolean;
}

/** What a commit shows of itself, in the project's folder. */
export interface CommitView extends FolderView {
  readonly node: WishedNode | null;
  /** The repository's root, where the project is one folder of it. */
  readonly around: (FolderView & { readonly folder: string }) | null;
}

/** Views of folders that were looked at already: a proposal comes back to each many times. */
const looked = new WeakMap<FolderView, Map<string, FolderView>>();

/** The part of a view that lies below a folder, its paths counted from there. */
export function viewBelow(view: FolderView, folder: string): FolderView {
  if (folder === '') return view;
  const known = looked.get(view) ?? new Map<string, FolderView>();
  looked.set(view, known);
  const made = known.get(folder) ?? cutBelow(view, folder);
  known.set(folder, made);
  return made;
}

function cutBelow(view: FolderView, folder: string): FolderView {
  const inside = (path: string): boolean => path.startsWith(`${folder}/`);
  const cut = (path: string): string => path.slice(folder.length + 1);
  const below = <T>(all: Readonly<Record<string, T>>): Readonly<Record<string, T>> =>
    Object.fromEntries(
      Object.entries(all).flatMap(([path, value]) =>
        inside(path)
          ? [[cut(path), value] as const]
          : path === folder
            ? [['', value] as const]
            : [],
      ),
    );
  return {
    paths: view.paths.filter(inside).map(cut),
    packages: below(view.packages),
    configs: below(view.configs),
  };
}

/** A path below a folder. */
export function below(folder: string, path: string): string {
  return folder === '' ? path : `${folder}/${path}`;
}
