import { type DeliveryMap, refsInWords } from '../map/delivery-map.ts';

/** What of its repository a project is built from. */
export interface ProjectSource {
  /** Its own branch: pull requests go into it unless they say otherwise. */
  readonly branch: string;
  /** The folder that its recipe stands in; empty for the repository's root. */
  readonly folder: string;
}

/**
 * A folder of a repository as somebody wrote it, `./site/` as `site`; undefined for what is none: it would leave the
 * repository, or no path of Git is called so.
 */
export function readFolder(text: string): string | undefined {
  const folder = text
    .trim()
    .replace(/^(?:\.?\/+)+|\/+$/g, '')
    .replace(/^\.$/, '');
  const parts = folder === '' ? [] : folder.split('/');
  const isNone = parts.some((part) => ['', '.', '..', '.git'].includes(part.toLowerCase()));
  // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for.
  return isNone || /[\u0000-\u001f\u007f:]/.test(folder) ? undefined : folder;
}

/** What is there that a change of the source is held against. */
export interface SourceMove {
  readonly before: ProjectSource;
  readonly after: ProjectSource;
  /** The map as it reads with the branch before, and after. */
  readonly mapBefore: DeliveryMap;
  readonly mapAfter: DeliveryMap;
  /** Whether the folder is there at the newest commit of the branch; null where that has none. */
  readonly isFolderThere: boolean | null;
  /** Whether people clone it from here. */
  readonly isCloned: boolean;
}

/** What a change of branch and folder does, a sentence each; none where nothing would change. */
export function sourceMoveInWords(move: SourceMove): readonly string[] {
  const { before, after } = move;
  return [
    ...(before.branch === after.branch ? [] : branchInWords(move)),
    ...(before.folder === after.folder
      ? []
      : [
          `Builds from now on are of ${folderInWords(after)}; what is served stays until the next one.`,
        ]),
    ...(move.isFolderThere === false
      ? [
          `The newest commit of ${after.branch} has no folder ${after.folder}: its builds would fail until it has.`,
        ]
      : []),
  ];
}

/** A folder of the repository, in words. */
export function folderInWords({ folder }: Pick<ProjectSource, 'folder'>): string {
  return folder === '' ? 'the repository’s root' : `the folder ${folder}`;
}

function branchInWords({ before, after, mapBefore, mapAfter, isCloned }: SourceMove) {
  const following = mapAfter.environments.filter(
    (rule) =>
      (rule.kind === 'follows' && rule.follows.branch.includes(before.branch)) ||
      (rule.kind === 'each' && rule.each.proposedInto.includes(before.branch)),
  );
  return [
    `Pull requests go into ${after.branch} unless they say otherwise, and its newest commit is what builds by hand and on a schedule take.`,
    mapAfter.trunk === mapBefore.trunk
      ? `The map names its own trunk: ahead and behind are counted from ${mapAfter.trunk} as before.`
      : `Ahead and behind are counted from ${after.branch}.`,
    ...(following.length === 0
      ? []
      : [
          `By the map ${following.map((rule) => inWords(rule)).join(' and ')}, as before: only a map that is set anew changes that.`,
        ]),
    ...(isCloned ? [`Whoever clones the repository from now on stands on ${after.branch}.`] : []),
  ];
}

function inWords(rule: DeliveryMap['environments'][number]): string {
  if (rule.kind === 'follows') return `${rule.name} follows ${refsInWords(rule.follows)}`;
  return rule.kind === 'each'
    ? `${rule.name} has one for each ${refsInWords(rule.each)}`
    : rule.name;
}
