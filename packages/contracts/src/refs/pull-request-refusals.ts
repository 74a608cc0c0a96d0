import { type CatalogueEntry, short } from '../refusal-entry.ts';

type Code =
  | 'pull-request-ended'
  | 'pull-request-moved'
  | 'pull-request-open'
  | 'no-word-needed'
  | 'place-not-allowed';

/** What the catalogue says of pull requests. */
export const pullRequestRefusals: { readonly [One in Code]: CatalogueEntry<One> } = {
  'pull-request-ended': {
    status: 409,
    exit: 3,
    sentence: ({ name, state }) => `${name} is ${state} already.`,
    next: ({ name }) =>
      `Open another one if there is more to merge; what ${name} was built as stays on record.`,
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
