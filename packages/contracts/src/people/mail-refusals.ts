import type { CatalogueEntry } from '../refusal-entry.ts';

type Code = 'mail-none' | 'mail-failed' | 'mail-link-over' | 'mail-address-taken' | 'mail-too-many';

/** What the catalogue says of mail addresses. */
export const mailRefusals: { readonly [One in Code]: CatalogueEntry<One> } = {
  'mail-none': {
    status: 409,
    exit: 3,
    sentence: () => 'This installation sends no mail, so no address can be shown to be yours.',
    next: () => 'Whoever runs it sets VAQUERO_MAIL_SERVER and VAQUERO_MAIL_FROM.',
  },
  'mail-failed': {
    status: 502,
    exit: 3,
    sentence: ({ address, why }) => `Mail to ${address} was not taken: ${why}.`,
    next: () => 'Look at the address, and try again in a while.',
  },
  'mail-link-over': {
    status: 410,
    exit: 3,
    sentence: ({ because }) =>
      because === 'late'
        ? 'This link is more than a day old.'
        : 'There is no such link of yours: it was used, another one was sent, or somebody else asked for it.',
    next: () => 'Have another one sent, signed in as whoever has the address.',
  },
  'mail-address-taken': {
    status: 409,
    exit: 3,
    sentence: ({ address }) => `${address} is somebody else’s here.`,
    next: () => 'Whoever has it there takes it away first.',
  },
  'mail-too-many': {
    status: 429,
    exit: 3,
    sentence: () => 'Ten mails were sent for you within the hour, or you have twenty addresses.',
    next: ({ retryAfterS }) => `Wait ${Math.ceil(retryAfterS / 60)} min and try again.`,
  },
};
