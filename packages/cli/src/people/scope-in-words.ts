import type { TokenSeen } from '@vaquero/contracts';

/** What a token opens, in words. */
export function scopeInWords({ kind, scope }: Pick<TokenSeen, 'kind' | 'scope'>): string {
  const git = kind === 'git' ? 'Git only' : null;
  if (scope === null) return git ?? 'all that you may do';
  const { projects, role, environments } = scope;
  const acts = environments === null ? '' : ` on ${environments.join(' and ')} alone`;
  return `${git === null ? '' : `${git}, `}${role} of ${projects.join(' and ')}${acts}`;
}
