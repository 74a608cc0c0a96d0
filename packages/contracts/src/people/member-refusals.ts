import type { CatalogueEntry } from '../refusal-entry.ts';

type Code =
  | 'above-own-role'
  | 'last-operator'
  | 'granted-everywhere'
  | 'password-weak'
  | 'invitation-over';

const over = {
  unknown: 'There is no such invitation.',
  used: 'This invitation was used.',
  ended: 'This invitation was taken back.',
  late: 'This invitation has run out.',
} as const;

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
  'password-weak': {
    status: 422,
    exit: 2,
    sentence: ({ why }) => `This password ${why}.`,
    next: () => 'Choose one of at least 12 letters: a few words will do.',
  },
  'invitation-over': {
    status: 410,
    exit: 3,
    sentence: ({ because }) => over[because],
    next: () => 'Ask whoever invited you for another one.',
  },
};
