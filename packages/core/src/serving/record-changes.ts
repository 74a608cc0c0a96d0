/** What makes one record of another: entries that are new or others, and keys that are gone. */
export interface RecordChanges<Entry> {
  set: Record<string, Entry>;
  gone: string[];
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
