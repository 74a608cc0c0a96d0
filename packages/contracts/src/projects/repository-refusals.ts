import { type CatalogueEntry, clock, list } from '../refusal-entry.ts';

type Code =
  | 'repository-not-found'
  | 'repository-denied'
  | 'repository-unreachable'
  | 'address-not-allowed'
  | 'path-not-allowed'
  | 'branch-missing'
  | 'source-incomplete'
  | 'token-needs-https'
  | 'key-unknown'
  | 'repository-another'
  | 'repository-hosted'
  | 'host-key-changed'
  | 'host-key-unconfirmed'
  | 'credential-unfit'
  | 'commits-elsewhere'
  | 'no-credential-needed'
  | 'commit-unreadable'
  | 'project-renamed'
  | 'project-ended'
  | 'name-not-typed'
  | 'repository-shared';

/** What the catalogue says of repositories and what is in them. */
export const repositoryRefusals: { readonly [One in Code]: CatalogueEntry<One> } = {
  'project-renamed': {
    status: 308,
    exit: 3,
    sentence: ({ name, now }) => `${name} is called ${now} by now.`,
    next: ({ now }) => `Use ${now}: its former name leads there for thirty days after the change.`,
  },
  'project-ended': {
    status: 410,
    exit: 3,
    sentence: ({ name, at }) =>
      `${name} ended on ${clock(at)}: it can be read, and is not changed.`,
    next: () => 'Make another project; what this one served stands in its history.',
  },
  'name-not-typed': {
    status: 422,
    exit: 2,
    sentence: ({ name }) => `The name that was typed is not ${name}.`,
    next: ({ name }) => `Type ${name}, so that it is this project that ends.`,
  },
  'repository-shared': {
    status: 409,
    exit: 3,
    sentence: ({ name, others }) =>
      `${list(others, 'Another project')} is built from the repository of ${name}.`,
    next: () => 'End what is built from it first.',
  },
  'repository-not-found': {
    status: 422,
    exit: 3,
    sentence: ({ place }) => `There is no repository at ${place}.`,
    next: () => 'Check the address; some hosts also say this when the repository is private.',
  },
  'repository-denied': {
    status: 422,
    exit: 3,
    sentence: ({ place }) => `${place} does not let Vaquero read it.`,
    next: () =>
      'If it is private, give the token that it is read with (--private), or add the key to it (repository-key); or make a hosted repository and push to it.',
  },
  'token-needs-https': {
    status: 422,
    exit: 3,
    sentence: ({ host }) => `A token for ${host} would go over a connection that others can read.`,
    next: () => 'Give the repository’s https address.',
  },
  'key-unknown': {
    status: 404,
    exit: 3,
    sentence: ({ place }) =>
      `No such key waits to be used for ${place}: it was used, is over a day old, or was made for another place.`,
    next: () => 'Make another one: vaquero repository-key.',
  },
  'repository-another': {
    status: 409,
    exit: 3,
    sentence: ({ place, branch, commit }) =>
      `What lies at ${place} is another repository: ${commit.slice(0, 12)}, where ${branch} stands by now, is not in it.`,
    next: () =>
      'Nothing was changed. Check the address; or say that another repository is meant (--another): what was built stays, and what is there is built.',
  },
  'repository-hosted': {
    status: 409,
    exit: 3,
    sentence: ({ project }) =>
      `The repository of ${project} is hosted here, and read from nowhere else.`,
    next: () => 'Push to it; or make a project of the repository elsewhere.',
  },
  'host-key-changed': {
    status: 422,
    exit: 3,
    sentence: ({ place }) =>
      `The host of ${place} shows another key than the one that was confirmed.`,
    next: () =>
      'Ask whoever runs it whether its key was changed; if so, make a key anew and confirm the new one (repository-key).',
  },
  'host-key-unconfirmed': {
    status: 422,
    exit: 3,
    sentence: ({ fingerprint, shown }) =>
      `The host showed ${list(shown, 'no key')}, and ${fingerprint} was confirmed.`,
    next: () => 'Compare it with what whoever runs the host says, and confirm the one it showed.',
  },
  'credential-unfit': {
    status: 422,
    exit: 3,
    sentence: ({ place, wants }) =>
      wants === 'key'
        ? `${place} is reached over SSH, which goes by a key and not by a token.`
        : `${place} is reached over https, which goes by a token and not by a key.`,
    next: ({ wants }) =>
      wants === 'key'
        ? 'Make a key for it, and add its public half there: vaquero repository-key.'
        : 'Give the token that it is read with: vaquero repository-token.',
  },
  'commits-elsewhere': {
    status: 409,
    exit: 3,
    sentence: ({ project }) => `The repository of ${project} is not hosted here.`,
    next: () => 'Commit it where the repository is; that is noticed within some seconds.',
  },
  'no-credential-needed': {
    status: 409,
    exit: 3,
    sentence: ({ place }) =>
      `${place} is read without a token or key: it is hosted here, or a folder.`,
    next: () => 'Only a repository at an https or SSH address is read with something.',
  },
  'repository-unreachable': {
    status: 422,
    exit: 4,
    sentence: ({ place, why }) => `${place} cannot be reached: ${why}.`,
    next: () => 'Check the address and the network, and try again.',
  },
  'address-not-allowed': {
    status: 422,
    exit: 3,
    sentence: ({ host }) =>
      `${host} leads to this machine, this service or a network that is not open to everybody.`,
    next: () =>
      'Name a public address, or ask the operator to name the network (VAQUERO_REPOSITORY_NETWORKS).',
  },
  'path-not-allowed': {
    status: 422,
    exit: 3,
    sentence: ({ path, roots }) =>
      `${path} is outside the folders that the operator opened: ${list(roots, 'none is open')}.`,
    next: () => 'Ask the operator to name a root in VAQUERO_REPOSITORY_ROOTS.',
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
};
