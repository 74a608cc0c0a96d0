/** What makes one record of another: entries that are new or others, and keys that are gone. */
export interface RecordChanges<Entry> {
  set: Record<string, Entry>;
  gone: string[];
}

/** The changes between two records. What is told as another though it says the same does no harm. */
export function changesBetween<Entry>(
  before: Readonly<Record<string, Entry>>,
  after: Readonly<Record<string, Entry>>,
  isSame: (one: Entry, other: Entry) => boolean = isWrittenAlike,
): RecordChanges<Entry> {
  if (before === after) return { set: {}, gone: [] };
  const known = new Map(Object.entries(before));
  const set = Object.entries(after).filter(([key, entry]) => {
    const was = known.get(key);
    return was === undefined || (was !== entry && !isSame(was, entry));
  });
  const gone = [...known.keys()].filter((key) => !Object.hasOwn(after, key));
  return { set: Object.fromEntries(set), gone };
}

/** The record that changes make of another. */
export function withChanges<Entry>(
  before: Readonly<Record<string, Entry>>,
  { set, gone }: RecordChanges<Entry>,
): Record<string, Entry> {
  const after = new Map(Object.entries(before));
  for (const key of gone) after.delete(key);
  for (const [key, entry] of Object.entries(set)) after.set(key, entry);
  return Object.fromEntries(after);
}

function isWrittenAlike(one: unknown, other: unknown): boolean {
  return JSON.stringify(one) === JSON.stringify(other);
}
