import { faultInWords } from '@vaquero/core';
import { type CatalogueEntry, clock, list } from '../refusal-entry.ts';

type Code =
  | 'map-invalid'
  | 'environments-would-end'
  | 'not-a-family'
  | 'map-says-who'
  | 'kept-too-long'
  | 'too-many-kept';

/** What the catalogue says of maps. */
export const mapRefusals: { readonly [One in Code]: CatalogueEntry<One> } = {
  'map-invalid': {
    status: 422,
    exit: 2,
    sentence: ({ faults }) => `This is no map: ${faults.map(faultInWords).join(' ')}`,
    next: () => 'Correct what is named and try again.',
  },
  'environments-would-end': {
    status: 409,
    exit: 3,
    sentence: ({ environments }) =>
      `This map has no rule any more for ${list(environments, 'nothing')}: what that serves would vanish.`,
    next: ({ environments }) =>
      `If it is meant, name them: --ends ${environments.join(' --ends ')}. An environment that has only another name says was: OLD-NAME.`,
  },
  'map-says-who': {
    status: 403,
    exit: 3,
    sentence: ({ environment, act, who }) => `The map lets ${who} ${act} ${environment}.`,
    next: ({ who }) =>
      who === 'nobody'
        ? 'A maintainer can set the map otherwise.'
        : `Ask ${who}, or a maintainer to set the map otherwise.`,
  },
  'kept-too-long': {
    status: 422,
    exit: 2,
    sentence: ({ until }) => `${clock(until)} is no moment of the coming year.`,
    next: ({ most }) => `Keep it until a moment from now to ${clock(most)}.`,
  },
  'too-many-kept': {
    status: 409,
    exit: 3,
    sentence: ({ family, atMost }) =>
      `${family} holds ${atMost} at once, and one of them stays free for what comes.`,
    next: () => 'Let another one go first, or have the map hold more of them: at-most.',
  },
  'not-a-family': {
    status: 409,
    exit: 3,
    sentence: ({ environment }) =>
      `${environment} is no environment of a family: it lives as long as the map has a rule for it.`,
    next: () => 'Take its rule out of the map, and name it as one that ends.',
  },
};
