import { faultInWords, type Refusal, type RefusalCode, type RefusalFields } from '@vaquero/core';
import { admissionRefusals } from './admission/admission-refusals.ts';
import { moveRefusals } from './environments/move-refusals.ts';
import { callRefusals } from './http/call-refusals.ts';
import { mapRefusals } from './map/map-refusals.ts';
import { mailRefusals } from './people/mail-refusals.ts';
import { memberRefusals } from './people/member-refusals.ts';
import { repositoryRefusals } from './projects/repository-refusals.ts';
import { recipeRefusals } from './recipes/recipe-refusals.ts';
import { pullRequestRefusals } from './refs/pull-request-refusals.ts';
import { type CatalogueEntry, clock, list } from './refusal-entry.ts';

/** Commands that list what something of a name was looked for among. */
const lists: Readonly<Record<string, string>> = {
  build: 'builds PROJECT',
  person: 'members PROJECT',
  invitation: 'members PROJECT',
  'pull request': 'pull-requests PROJECT',
  project: 'projects',
  token: 'tokens',
  variable: 'variables PROJECT',
  deploy: 'history PROJECT',
  runner: 'runners',
  edge: 'edges',
  group: 'groups',
  service: 'services PROJECT',
  'mail address': 'mail',
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
  'token-too-narrow': {
    status: 403,
    exit: 3,
    sentence: ({ token, what }) => `The token "${token}" is not for that: it may not ${what}.`,
    next: () => 'Use one that reaches it, or sign in: vaquero tokens shows what each is for.',
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
    next: ({ free }) => (free.length === 0 ? 'Choose another.' : `Free: ${list(free, 'none')}.`),
  },
  'name-invalid': {
    status: 400,
    exit: 2,
    sentence: ({ name, rule }) => `"${name}" cannot be a name: it takes ${rule}.`,
    next: () => 'Choose another name; it becomes part of the addresses.',
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
  ...moveRefusals,
  ...repositoryRefusals,
  ...recipeRefusals,
  ...admissionRefusals,
  ...mapRefusals,
  ...mailRefusals,
  ...memberRefusals,
  ...pullRequestRefusals,
  ...callRefusals,
  'build-ended': {
    status: 409,
    exit: 3,
    sentence: ({ build, state }) => `Build ${build} has ended already: ${state}.`,
    next: () => 'Nothing is left to stop. Build the commit again if you want another result.',
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
