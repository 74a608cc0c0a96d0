import type { CatalogueEntry } from '../refusal-entry.ts';

type Code =
  | 'above-own-role'
  | 'last-operator'
  | 'granted-everywhere'
  | 'granted-by-group'
  | 'only-people-operate'
  | 'no-group'
  | 'password-weak'
  | 'code-needed'
  | 'elsewhere-none'
  | 'elsewhere-failed'
  | 'elsewhere-unknown'
  | 'elsewhere-taken'
  | 'wrong-code'
  | 'factor-demanded'
  | 'factor-first'
  | 'no-factor'
  | 'invitation-over'
  | 'password-link-over';

const over = (what: string) =>
  ({
    unknown: `There is no such ${what}.`,
    used: `This ${what} was used.`,
    ended: `This ${what} was taken back.`,
    late: `This ${what} has run out.`,
  }) as const;

/** What the catalogue says of who may do what, given and taken. */
export const memberRefusals: { readonly [One in Code]: CatalogueEntry<One> } = {
  'above-own-role': {
    status: 403,
    exit: 3,
    sentence: ({ person, role, own }) =>
      `${person === null ? `The role ${role}` : `${person}, ${role},`} is above your own, ${own ?? 'which is none here'}.`,
    next: ({ role }) => `Ask a ${role}, or whoever stands above.`,
  },
  'last-operator': {
    status: 409,
    exit: 3,
    sentence: ({ person }) => `${person} is the last operator of this installation.`,
    next: () => 'Make somebody else an operator first.',
  },
  'granted-everywhere': {
    status: 409,
    exit: 3,
    sentence: ({ person, role }) => `${person} is ${role} in the whole installation.`,
    next: () => 'An operator can change that for the installation.',
  },
  'granted-by-group': {
    status: 409,
    exit: 3,
    sentence: ({ person, role, group }) => `${person} is ${role} by the group ${group}.`,
    next: ({ person, group }) => `Take ${person} out of ${group}, or change what ${group} may.`,
  },
  'only-people-operate': {
    status: 409,
    exit: 3,
    sentence: ({ name }) => `${name} is no person, and only people are operators.`,
    next: () => 'Grant it a role up to maintainer, or make a person an operator.',
  },
  'no-group': {
    status: 409,
    exit: 3,
    sentence: ({ name, kind }) => `${name} is a ${kind}.`,
    next: () =>
      'A group has people in it; what is no group has nobody, and what is no person is in none.',
  },
  'elsewhere-none': {
    status: 404,
    exit: 3,
    sentence: () => 'There is nowhere else to sign in.',
    next: () => 'Sign in with name and password; an operator names an issuer in the configuration.',
  },
  'elsewhere-failed': {
    status: 401,
    exit: 3,
    sentence: ({ called, why }) => `${called} did not vouch for you: ${why}.`,
    next: () => 'Begin again; sign in with name and password if it stays so.',
  },
  'elsewhere-unknown': {
    status: 403,
    exit: 3,
    sentence: ({ called }) => `${called} knows you, and nobody here is joined with that.`,
    next: () =>
      'Sign in with name and password, and join it on your own page; who has neither asks for an invitation.',
  },
  'elsewhere-taken': {
    status: 409,
    exit: 3,
    sentence: ({ called }) => `Somebody else here is joined with what you are at ${called}.`,
    next: () => 'Sign in there as somebody else, or ask whoever is joined with it to leave.',
  },
  'code-needed': {
    status: 401,
    exit: 3,
    sentence: () => 'A code of the second factor is needed, too.',
    next: () => 'Type the six digits that it shows now, or one of the recovery words.',
  },
  'wrong-code': {
    status: 401,
    exit: 3,
    sentence: ({ because }) =>
      because === 'used' ? 'This code was used already.' : 'This is no code of the second factor.',
    next: ({ because }) =>
      because === 'used'
        ? 'Wait for the next one, which comes within half a minute.'
        : 'Type the six digits that it shows now; look whether the clocks agree. An operator can end a factor that is lost.',
  },
  'factor-demanded': {
    status: 403,
    exit: 3,
    sentence: ({ from, has }) =>
      has
        ? `Whoever is ${from} or more has a second factor here.`
        : `Whoever is ${from} or more signs in with a second factor here, and there is none yet.`,
    next: ({ has }) =>
      has
        ? 'Set up another one in its place.'
        : 'Set one up: vaquero second-factor NAME, or on the page.',
  },
  'factor-first': {
    status: 409,
    exit: 3,
    sentence: () => 'It would lock you out: you have no second factor yourself.',
    next: () => 'Set up your own first.',
  },
  'no-factor': {
    status: 404,
    exit: 3,
    sentence: ({ person }) => `${person} has no second factor.`,
    next: () => 'There is nothing to end or to confirm.',
  },
  'password-weak': {
    status: 422,
    exit: 2,
    sentence: ({ why }) => `This password ${why}.`,
    next: () => 'Choose one of at least 12 letters: a few words will do.',
  },
  'invitation-over': {
    status: 410,
    exit: 3,
    sentence: ({ because }) => over('invitation')[because],
    next: () => 'Ask whoever invited you for another one.',
  },
  'password-link-over': {
    status: 410,
    exit: 3,
    sentence: ({ because }) => over('link')[because],
    next: () => 'Ask an operator for another one.',
  },
};
