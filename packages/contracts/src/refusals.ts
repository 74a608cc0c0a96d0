import { faultInWords, type Refusal, type RefusalCode, type RefusalFields } from '@vaquero/core';
import { admissionRefusals } from './admission/admission-refusals.ts';
import { callRefusals } from './http/call-refusals.ts';
import { mapRefusals } from './map/map-refusals.ts';
import { memberRefusals } from './people/member-refusals.ts';
import { pullRequestRefusals } from './refs/pull-request-refusals.ts';
import { type CatalogueEntry, clock, list, short } from './refusal-entry.ts';

/** Commands that list what something of a name was looked for among. */
const lists: Readonly<Record<string, string>> = {
  build: 'builds PROJECT',
  person: 'members PROJECT',
  invitation: 'members PROJECT',
  'pull request': 'pull-requests PROJECT',
  project: 'projects',
  token: 'tokens',
};

/** The one catalogue: a code without all four does not compile. Kept in step with docs/refusals.md by a test. */
export const refusalCatalogue: { readonly [Code in RefusalCode]: CatalogueEntry<Code> } = {
  'not-signed-in': {
    status: 401,
    exit: 3,
    sentence: ({ tried }) =>
      tried === 'nothing'
        ? 'Nobody is signed in.'
        : `The ${tried} is not known here, has ended or was taken back.`,
    next: () => 'Sign in: vaquero sign-in, or open the console.',
  },
  'wrong-password': {
    status: 401,
    exit: 3,
    sentence: () => 'Name and password do not belong together.',
    next: () => 'Try again; ask the operator if the password is lost.',
  },
  'too-many-tries': {
    status: 429,
    exit: 3,
    sentence: ({ retryAfterS }) =>
      `Too many sign-ins failed for this name or from this address; the next is read in ${retryAfterS} s.`,
    next: ({ retryAfterS }) => `Wait ${retryAfterS} s and try again.`,
  },
  'not-allowed': {
    status: 403,
    exit: 3,
    sentence: ({ needs, project, has }) =>
      `This needs the role ${needs}${project === null ? ' in the installation' : ` in ${project}`}; you have ${list(has, 'none there')}.`,
    next: ({ needs }) =>
      `Ask a maintainer to grant ${needs}, or ask somebody who has it to do this.`,
  },
  'token-git-only': {
    status: 403,
    exit: 3,
    sentence: ({ token }) => `The token "${token}" is for Git only.`,
    next: () => 'Use a token of the kind "all", or sign in.',
  },
  'forged-request': {
    status: 403,
    exit: 3,
    sentence: ({ because }) =>
      because === 'host'
        ? 'The request names a host that this service does not answer for.'
        : `The request carries a session but its ${because === 'origin' ? 'Origin is not the console' : 'header Vaquero-Request is absent'}.`,
    next: () => 'Do this in the console itself, or with a token.',
  },
  'invalid-request': {
    status: 400,
    exit: 2,
    sentence: ({ faults }) =>
      `The request is not understood: ${faults.map(faultInWords).join(' ')}`,
    next: () => 'Correct the fields that are named and send it again.',
  },
  'not-found': {
    status: 404,
    exit: 3,
    sentence: ({ what, name }) => `There is no ${what} "${name}" that you may see.`,
    next: ({ what }) => `Look at the list: vaquero ${lists[what] ?? 'live'}.`,
  },
  'name-taken': {
    status: 409,
    exit: 3,
    sentence: ({ name }) => `The name "${name}" is taken.`,
    next: ({ free }) => `Free: ${list(free, 'choose another')}.`,
  },
  'name-invalid': {
    status: 400,
    exit: 2,
    sentence: ({ name, rule }) => `"${name}" cannot be a name: it takes ${rule}.`,
    next: () => 'Choose another name; it becomes part of the addresses.',
  },
  'repository-not-found': {
    status: 422,
    exit: 3,
    sentence: ({ place }) => `There is no repository at ${place}.`,
    next: () => 'Check the address; some hosts also say this when the repository is private.',
  },
  'address-not-allowed': {
    status: 422,
    exit: 3,
    sentence: ({ host }) =>
      `${host} leads to this machine, this service or a network that is not open to everybody.`,
    next: () =>
      'Name a public address, or ask the operator to name the network (VAQUERO_REPOSITORY_NETWORKS).',
  },
  'repository-denied': {
    status: 422,
    exit: 3,
    sentence: ({ place }) => `${place} does not let Vaquero read it.`,
    next: () =>
      'Give an address that carries no password and is readable, or make a hosted repository and push to it.',
  },
  'repository-unreachable': {
    status: 422,
    exit: 4,
    sentence: ({ place, why }) => `${place} cannot be reached: ${why}.`,
    next: () => 'Check the address and the network, and try again.',
  },
  'branch-missing': {
    status: 422,
    exit: 3,
    sentence: ({ branch, branches }) =>
      `The repository has no branch "${branch}". It has ${list(branches, 'none')}.`,
    next: ({ branches }) =>
      branches[0] === undefined
        ? 'Push a branch first.'
        : `Name one of them, such as ${branches[0]}.`,
  },
  'path-not-allowed': {
    status: 422,
    exit: 3,
    sentence: ({ path, roots }) =>
      `${path} is outside the folders that the operator opened: ${list(roots, 'none is open')}.`,
    next: () => 'Ask the operator to name a root in VAQUERO_REPOSITORY_ROOTS.',
  },
  'recipe-invalid': {
    status: 422,
    exit: 2,
    sentence: ({ file, faults }) =>
      `${file} is not a recipe: ${faults.map(faultInWords).join(' ')}`,
    next: () => 'Correct what is named and try again.',
  },
  'recipe-file-wins': {
    status: 409,
    exit: 3,
    sentence: ({ file, commit }) =>
      `${file} stands in the repository at ${commit.slice(0, 12)}, and the file wins.`,
    next: ({ file }) => `Change ${file} and push, or remove it first.`,
  },
  'nothing-proposed': {
    status: 409,
    exit: 3,
    sentence: ({ commit }) =>
      commit === null
        ? 'There is no commit to conclude a recipe from.'
        : `No recipe can be concluded from ${commit.slice(0, 12)}.`,
    next: () => 'Push a commit, or commit a vaquero.yaml.',
  },
  'no-commit-yet': {
    status: 409,
    exit: 3,
    sentence: ({ branch }) =>
      `Waits for the first commit on ${branch}; there is nothing to build yet.`,
    next: ({ branch }) => `Push to ${branch}.`,
  },
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
  'source-incomplete': {
    status: 422,
    exit: 3,
    sentence: ({ why }) => `The tree cannot be given out whole: ${why}.`,
    next: () => 'Correct .gitmodules, or ask the operator to open the folder, and build again.',
  },
  'commit-unreadable': {
    status: 422,
    exit: 3,
    sentence: ({ why }) => `The commit is not read: ${why}.`,
    next: () => 'Correct the commit and push.',
  },
  'runner-builds': {
    status: 409,
    exit: 3,
    sentence: ({ runner, builds }) =>
      `The runner ${runner} builds ${builds === 1 ? 'a commit' : `${builds} commits`} now; taking its token back would lose ${builds === 1 ? 'it' : 'them'}.`,
    next: ({ runner }) =>
      `Drain it first: vaquero drain-runner ${runner}, and wait for its builds.`,
  },
  'edge-serves': {
    status: 409,
    exit: 3,
    sentence: ({ edge }) =>
      `The edge ${edge} was heard of within the last seconds: visitors may be sent to it.`,
    next: () => 'Stop it, or let no more visitors come to it, and drop it some seconds later.',
  },
  ...admissionRefusals,
  ...mapRefusals,
  ...memberRefusals,
  ...pullRequestRefusals,
  ...callRefusals,
  'build-ended': {
    status: 409,
    exit: 3,
    sentence: ({ build, state }) => `Build ${build} has ended already: ${state}.`,
    next: () => 'Nothing is left to stop. Build the commit again if you want another result.',
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
  'attempt-over': {
    status: 409,
    exit: 3,
    sentence: () => 'This attempt is over; its build went on without it.',
    next: () => 'Stop the attempt; nothing it sends is kept.',
  },
  'database-away': {
    status: 503,
    exit: 4,
    sentence: ({ since }) =>
      `The records cannot be read since ${clock(since)}: the database does not answer. Sites keep serving.`,
    next: () => 'Try again in a few seconds.',
  },
  'too-large': {
    status: 413,
    exit: 2,
    sentence: ({ what, limitBytes }) => `${what} is over ${limitBytes} bytes.`,
    next: () => 'Send less.',
  },
  internal: {
    status: 500,
    exit: 1,
    sentence: ({ requestId }) =>
      `Something failed inside Vaquero. Its log has the details under request ${requestId}.`,
    next: () => 'Try again; if it stays, tell the operator the request id.',
  },
};

/** A refusal in words, with its status and exit code. */
export interface RefusalInWords {
  readonly code: RefusalCode;
  readonly status: number;
  readonly exit: 1 | 2 | 3 | 4;
  readonly sentence: string;
  readonly next: string;
}

/** Says a refusal in words. */
export function refusalInWords(refusal: Refusal): RefusalInWords {
  return inWords(refusal.code, refusal);
}

function inWords<Code extends RefusalCode>(
  code: Code,
  fields: RefusalFields[Code],
): RefusalInWords {
  const entry: CatalogueEntry<Code> = refusalCatalogue[code];
  return {
    code,
    status: entry.status,
    exit: entry.exit,
    sentence: entry.sentence(fields),
    next: entry.next(fields),
  };
}

/** A refusal as it goes over HTTP. Source: RFC 9457 section 3. */
export interface Problem {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail: string;
  readonly code: RefusalCode;
  readonly next: string;
  readonly requestId: string;
  readonly [extension: string]: unknown;
}

/** The problem details of a refusal, with its own fields beside them. */
export function problemOf(refusal: Refusal, requestId: string): Problem {
  const words = refusalInWords(refusal);
  return {
    ...refusal,
    type: `urn:vaquero:refusal:${words.code}`,
    title: words.code.replaceAll('-', ' '),
    status: words.status,
    detail: words.sentence,
    next: words.next,
    requestId,
  };
}

/** A refusal as two sentences: what happened and what to do. */
export function faultText(refusal: Refusal): string {
  const words = refusalInWords(refusal);
  return `${words.sentence} ${words.next}`;
}
