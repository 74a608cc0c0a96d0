import { faultInWords } from '@vaquero/core';
import type { CatalogueEntry } from '../refusal-entry.ts';

type Code = 'recipe-invalid' | 'recipe-file-wins' | 'nothing-proposed' | 'no-commit-yet';

/** What the catalogue says of recipes. */
export const recipeRefusals: { readonly [One in Code]: CatalogueEntry<One> } = {
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
};
