import { type CatalogueEntry, clock, short } from '../refusal-entry.ts';

type Code =
  | 'environment-held'
  | 'environment-not-held'
  | 'environment-moved'
  | 'environment-serves-nothing'
  | 'accepts-from'
  | 'already-serves'
  | 'no-way-back'
  | 'artifact-gone'
  | 'edge-cannot-prepare'
  | 'immutable-changed'
  | 'overtaken'
  | 'not-offered'
  | 'undone-there';

/** What the catalogue says of moves of environments. */
export const moveRefusals: { readonly [One in Code]: CatalogueEntry<One> } = {
  'environment-held': {
    status: 409,
    exit: 3,
    sentence: ({ environment, by, since, reason }) =>
      `${environment} is held since ${clock(since)} by ${by}: “${reason}”.`,
    next: ({ environment }) =>
      `A releaser can lift the hold on ${environment}, in its lane or with vaquero lift-hold. Rolling back stays possible.`,
  },
  'environment-not-held': {
    status: 409,
    exit: 3,
    sentence: ({ environment }) => `${environment} is not held.`,
    next: () => 'There is nothing to lift.',
  },
  'environment-moved': {
    status: 409,
    exit: 3,
    sentence: ({ environment, seen, now, deploy, by, at }) =>
      `${environment} changed since you looked: it served ${short(seen)}, and serves ${short(now)} since ${clock(at)} (deploy ${deploy}, by ${by}).`,
    next: () => 'Look again, then decide again.',
  },
  'environment-serves-nothing': {
    status: 409,
    exit: 3,
    sentence: ({ environment }) => `${environment} serves nothing yet.`,
    next: () => 'Push a commit and wait for its build.',
  },
  'accepts-from': {
    status: 409,
    exit: 3,
    sentence: ({ environment, from }) =>
      from === null
        ? `${environment} follows its branch and takes no promotion.`
        : `${environment} accepts artifacts of ${from} only.`,
    next: ({ from }) =>
      from === null ? 'Push to its branch.' : `Bring the artifact to ${from} first.`,
  },
  'already-serves': {
    status: 409,
    exit: 3,
    sentence: ({ environment, build }) =>
      `${environment} already serves these bytes, build ${build}.`,
    next: () => 'There is nothing to do.',
  },
  'no-way-back': {
    status: 409,
    exit: 3,
    sentence: ({ environment, asked }) => {
      if (asked === null) return `${environment} has no earlier deploy to go back to.`;
      return 'deploy' in asked
        ? `${environment} has no deploy ${asked.deploy}.`
        : `Build ${asked.build} was never live in ${environment}.`;
    },
    next: ({ asked }) =>
      `${asked === null ? 'Name one with --to DEPLOY' : 'Name one that was'}: vaquero history lists them.`,
  },
  'artifact-gone': {
    status: 410,
    exit: 3,
    sentence: ({ build }) => `The bytes of build ${build} are no longer kept.`,
    next: () => 'Choose another deploy, or build its commit again.',
  },
  'edge-cannot-prepare': {
    status: 409,
    exit: 3,
    sentence: ({ edge, why }) => `${edge} cannot serve the artifact: ${why}.`,
    next: () => 'Nothing moved. Ask the operator to look at that edge.',
  },
  'immutable-changed': {
    status: 409,
    exit: 3,
    sentence: ({ environment, address, build }) =>
      `${environment} served other bytes at ${address} (build ${build}), said never to change, within the last 30 days: browsers would keep those.`,
    next: () =>
      'Nothing moved. Give the file another name, or take its pattern out of serve.immutable, and build again.',
  },
  overtaken: {
    status: 409,
    exit: 3,
    sentence: ({ environment, intake, served }) =>
      `${environment} already took something newer: intake ${served}, and this is ${intake}.`,
    next: () => 'There is nothing to do; the newer one stays.',
  },
  'not-offered': {
    status: 409,
    exit: 3,
    sentence: ({ environment, build }) => `Build ${build} is not offered to ${environment}.`,
    next: ({ environment }) =>
      `What waits for a word is what passed for ${environment} and was neither let in nor overtaken.`,
  },
  'undone-there': {
    status: 409,
    exit: 3,
    sentence: ({ environment, build }) =>
      `Build ${build} was rolled back in ${environment}: what was undone there goes no further.`,
    next: ({ environment }) => `Promote what ${environment} serves, or build it again.`,
  },
};
