import type { Me } from '@vaquero/contracts';

/** A grant in words: the role, where, and the group that it comes by. */
export function grantInWords({ project, role, group }: Me['grants'][number]): string {
  const where = project === null ? 'in the whole installation' : `of ${project}`;
  return `${role} ${where}${group === null ? '' : `, by ${group}`}`;
}
