import type { Db, Tx } from '../database/pool.ts';
import { peopleByMail } from './mail-rows.ts';

/** Somebody of this installation, as the author of a commit. */
export interface AuthorIs {
  readonly name: string;
  readonly shownAs: string;
}

/** Who authors are by their mail addresses; null for those that nobody has shown to be theirs. */
export async function authorsOf(
  db: Db | Tx,
  addresses: readonly (string | null)[],
): Promise<(address: string | null) => AuthorIs | null> {
  const known = await peopleByMail(db, addresses);
  return (address) => {
    const person = address === null ? undefined : known.get(address);
    return person === undefined ? null : { name: person.name, shownAs: person.shownAs };
  };
}

/** Commits with who of this installation wrote each, instead of the address that tells it. */
export async function withAuthors<Commit extends { readonly authorMail: string | null }>(
  db: Db | Tx,
  commits: readonly Commit[],
): Promise<(Omit<Commit, 'authorMail'> & { readonly authorIs: AuthorIs | null })[]> {
  const authors = await authorsOf(
    db,
    commits.map(({ authorMail }) => authorMail),
  );
  return commits.map(({ authorMail, ...commit }) => ({ ...commit, authorIs: authors(authorMail) }));
}
