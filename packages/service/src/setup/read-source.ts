import { type ProjectSource, readFolder, refOfBranch } from '@vaquero/core';
import { refused, refuseField } from '../base/refused.ts';

/** A branch and folder as they are written down. Refuses: invalid-request. */
export function readSource({ branch, folder: said }: ProjectSource): ProjectSource {
  if (refOfBranch(branch) === undefined)
    return refuseField('branch', 'is no name that Git takes for a branch');
  const folder = readFolder(said);
  return folder === undefined
    ? refuseField('folder', 'must be a folder inside the repository')
    : { branch, folder };
}

/** An empty repository is fine and waited for; one that has branches must have this one. Refuses: branch-missing. */
export function requireBranch(branch: string, branches: readonly string[]): void {
  if (branches.length > 0 && !branches.includes(branch))
    refused({ code: 'branch-missing', branch, branches: branches.slice(0, 20) });
}
