import type { CatalogueEntry } from '../refusal-entry.ts';

type Code =
  | 'key-used-otherwise'
  | 'shown-once'
  | 'condition-missing'
  | 'changed-since'
  | 'other-protocol';

/** What the catalogue says of how a call was made. */
export const callRefusals: { readonly [One in Code]: CatalogueEntry<One> } = {
  'key-used-otherwise': {
    status: 409,
    exit: 2,
    sentence: ({ key }) => `The idempotency key "${key}" was used for another call.`,
    next: () => 'Use a new key for a new call.',
  },
  'shown-once': {
    status: 409,
    exit: 3,
    sentence: ({ what }) =>
      `This very call was carried out before, and the secret of the ${what} was shown then: it is kept nowhere.`,
    next: ({ what }) => `If it did not arrive, take the ${what} back and make another.`,
  },
  'condition-missing': {
    status: 428,
    exit: 2,
    sentence: () =>
      'The call does not say which version of it was seen, so it could undo what another person set.',
    next: () => 'Read it, and send its version as If-Match; * means whatever it is.',
  },
  'changed-since': {
    status: 412,
    exit: 3,
    sentence: ({ what, by, at }) =>
      `The ${what} was set anew by ${by}${at === null ? '' : ` at ${new Date(at).toISOString()}`}, since it was read.`,
    next: () => 'Look at what it is now, and set it again if that is still wanted.',
  },
  'other-protocol': {
    status: 409,
    exit: 1,
    sentence: ({ speaks, understood }) =>
      `What calls speaks version ${speaks} of the protocol, and the service ${understood.join(' and ')}.`,
    next: ({ speaks, understood }) =>
      speaks > Math.max(...understood)
        ? 'Bring the service up to date.'
        : 'Bring this runner or edge up to date.',
  },
};
