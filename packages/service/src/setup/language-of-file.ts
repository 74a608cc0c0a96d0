import { extname } from 'node:path';

/** What is written by hand in, as far as a language is one: neither data nor plain words. */
const told = new Set(['programming', 'markup']);

interface Language {
  readonly name: string;
  readonly type: string;
  readonly aceMode: string;
  /** Ends of the names of its files, the one that it is known by first. */
  readonly extensions?: readonly string[];
  /** What it is a kind of. */
  readonly group?: string;
}

let known: Promise<(name: string) => string | undefined> | null = null;

/** Tells the language of a file by the end of its name; the list of them all is read when it is first asked for. */
export function languageOfFile(): Promise<(name: string) => string | undefined> {
  known ??= readList();
  return known;
}

/** Several languages have some ends: it is the one known by it first, then data and words, then what editors know. */
async function readList(): Promise<(name: string) => string | undefined> {
  const all: readonly Language[] = Object.values(await import('linguist-languages'));
  const claims = all.flatMap(({ name, type, aceMode, extensions = [], group }) =>
    extensions.map((end, place) => ({
      end,
      name: told.has(type) ? (group ?? name) : null,
      rank:
        (place > 0 ? 8 : 0) +
        (group === undefined ? 0 : 4) +
        (told.has(type) ? 2 : 0) +
        (aceMode === 'text' ? 1 : 0),
    })),
  );
  const byEnd = new Map<string, string | null>();
  for (const { end, name } of claims.toSorted((one, other) => one.rank - other.rank))
    if (!byEnd.has(end)) byEnd.set(end, name);
  return (name) => byEnd.get(extname(name).toLowerCase()) ?? undefined;
}
