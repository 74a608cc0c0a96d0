/** The versions of each package that a lock file installs; one name can stand in several. */
export type LockedPackages = ReadonlyMap<string, ReadonlySet<string>>;

/** A package that two lock files install in other versions. Null: not at all. */
export interface LockDifference {
  readonly name: string;
  readonly before: string | null;
  readonly now: string | null;
}

/** What one lock file installs otherwise than an earlier one, by name. */
export function lockDifferences(
  before: LockedPackages,
  now: LockedPackages,
): readonly LockDifference[] {
  const names = [...new Set([...before.keys(), ...now.keys()])].sort();
  return names
    .map((name) => ({
      name,
      before: inWords(before.get(name)),
      now: inWords(now.get(name)),
    }))
    .filter((one) => one.before !== one.now);
}

function inWords(versions: ReadonlySet<string> | undefined): string | null {
  return versions === undefined ? null : [...versions].sort().join(', ');
}
