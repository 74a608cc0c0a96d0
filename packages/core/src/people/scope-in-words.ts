/** What a token opens, in words: projects and environments by name. */
export function scopeInWords({
  kind,
  scope,
}: {
  readonly kind: 'all' | 'git';
  readonly scope: {
    readonly projects: readonly string[];
    readonly role: string;
    readonly environments: readonly string[] | null;
  } | null;
}): string {
  const git = kind === 'git' ? 'Git only' : null;
  if (scope === null) return git ?? 'all that you may do';
  const { projects, role, environments } = scope;
  const acts = environments === null ? '' : ` on ${environments.join(' and ')} alone`;
  return `${git === null ? '' : `${git}, `}${role} of ${projects.join(' and ')}${acts}`;
}
