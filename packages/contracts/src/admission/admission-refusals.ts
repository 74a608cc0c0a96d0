import type { CatalogueEntry } from '../refusal-entry.ts';

type Code = 'not-admitted' | 'not-lent';

/** What the catalogue says of who may open sites. */
export const admissionRefusals: { readonly [One in Code]: CatalogueEntry<One> } = {
  'not-admitted': {
    status: 403,
    exit: 3,
    sentence: ({ host }) => `${host} is not for you to see, or is no site of this installation.`,
    next: () => 'Ask a maintainer of its project for a role, or whoever sent you for a link.',
  },
  'not-lent': {
    status: 409,
    exit: 3,
    sentence: ({ environment, admits }) =>
      admits === 'anyone'
        ? `${environment} admits anyone: its address is enough.`
        : `The map lets ${environment} admit members alone.`,
    next: ({ admits }) =>
      admits === 'anyone'
        ? 'Send its address.'
        : 'A maintainer can have the map say admits: link for it.',
  },
};
