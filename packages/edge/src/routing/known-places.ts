import type { LiveTable, Place } from './live-table.ts';

const mostPlaces = 10_000;
/** A name and a port; a port of thousands of digits is no other place, and need not be remembered. */
const longestHost = 300;

/** Remembers places by the names by which they were asked for: the same object for as long as a table is in force. */
export function makePlaces(find: LiveTable['place']) {
  const known = new Map<string, Place>();
  return {
    get: (asked: string, shown?: string): Place | undefined => {
      const again = shown === undefined ? known.get(asked) : undefined;
      if (again !== undefined) return again;
      const found = find(asked, shown);
      // Names that stand for nothing are without number.
      const isKept = asked.length <= longestHost && known.size < mostPlaces;
      if (found !== undefined && shown === undefined && isKept) known.set(asked, found);
      return found;
    },
    known: (asked: string): Place | undefined => known.get(asked),
    clear: (): void => known.clear(),
  };
}
