import { type CatalogueEntry, list, short } from '../refusal-entry.ts';

type Code =
  | 'outsiders-not-built'
  | 'pull-request-draft'
  | 'pull-request-ended'
  | 'branch-elsewhere'
  | 'merges-elsewhere'
  | 'merge-conflicts'
  | 'branch-moved'
  | 'pull-request-moved'
  | 'pull-request-open'
  | 'no-word-needed'
  | 'place-not-allowed';

/** What the catalogue says of pull requests. */
export const pullRequestRefusals: { readonly [One in Code]: CatalogueEntry<One> } = {
  'outsiders-not-built': {
    status: 409,
    exit: 3,
    sentence: ({ name, family }) =>
      `${name} is an outsider’s, and the map has none of that built (${family}).`,
    next: () =>
      'Bring its commits into a branch of the repository, or ask a maintainer to set the map otherwise.',
  },
  'pull-request-draft': {
    status: 409,
    exit: 3,
    sentence: ({ name }) => `${name} is a draft.`,
    next: ({ name }) => `Say first that it is ready: vaquero draft PROJECT ${name} --no-longer`,
  },
  'pull-request-ended': {
    status: 409,
    exit: 3,
    sentence: ({ name, state }) => `${name} is ${state} already.`,
    next: ({ name }) =>
      `Open another one if there is more to merge; what ${name} was built as stays on record.`,
  },
  'branch-elsewhere': {
    status: 409,
    exit: 3,
    sentence: ({ name, branch }) => `The branch ${branch} of ${name} lies in another repository.`,
    next: () => 'Whoever has it brings the target in there and pushes; that is noticed.',
  },
  'merges-elsewhere': {
    status: 409,
    exit: 3,
    sentence: ({ name }) => `The repository of ${name} is not hosted here.`,
    next: () => 'Merge it where the repository is; that is noticed within some seconds.',
  },
  'merge-conflicts': {
    status: 409,
    exit: 3,
    sentence: ({ name, into, paths, why }) =>
      why === null
        ? `${name} and ${into} have both changed ${list(paths, 'the same lines')}.`
        : `${name} cannot be merged into ${into}: ${why}.`,
    next: ({ into }) =>
      `Bring ${into} into the branch, settle what both have changed, and push: git merge ${into}`,
  },
  'branch-moved': {
    status: 409,
    exit: 3,
    sentence: ({ branch, seen, now }) =>
      now === null
        ? `The branch ${branch} is gone.`
        : seen === ''
          ? `${branch} has a commit by now, ${now.slice(0, 8)}.`
          : `${branch} has moved from ${seen.slice(0, 8)} to ${now.slice(0, 8)} since you looked.`,
    next: () => 'Look again at what stands there now.',
  },
  'pull-request-moved': {
    status: 409,
    exit: 3,
    sentence: ({ name, seen, now }) =>
      `${name} does not stand at ${short(seen)} any more, but at ${short(now)}.`,
    next: ({ now }) =>
      now === null
        ? 'Wait until its branch was seen.'
        : `Read what changed, then give the word for ${short(now)}.`,
  },
  'pull-request-open': {
    status: 409,
    exit: 3,
    sentence: ({ name, branch, into }) => `${name} already asks to merge ${branch} into ${into}.`,
    next: ({ name }) => `Push to that branch; ${name} follows it.`,
  },
  'no-word-needed': {
    status: 409,
    exit: 3,
    sentence: ({ name }) =>
      `${name} comes from a branch of this repository: whoever can push there needs no further word.`,
    next: () => 'Its commits are built when a recipe is for them (for: {proposed-into: …}).',
  },
  'place-not-allowed': {
    status: 403,
    exit: 3,
    sentence: ({ place }) =>
      `${place} is not on the host that this repository comes from; only an operator sends the service elsewhere.`,
    next: () => 'Ask an operator to open it.',
  },
};
