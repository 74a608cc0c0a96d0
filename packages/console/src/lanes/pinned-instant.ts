import { type Instant, readInstant } from '@vaquero/core';
import { useSearchParams } from 'react-router';

/** The instant that the page's address names, and how to name another one there. */
export function usePinned(): readonly [Instant | null, (at: Instant | null) => void] {
  const [search, setSearch] = useSearchParams();
  const said = search.get('at');
  const pinned = said === null ? null : (readInstant(Date.parse(said)) ?? null);
  const pin = (at: Instant | null): void =>
    setSearch(
      (before) => {
        const next = new URLSearchParams(before);
        if (at === null) next.delete('at');
        else next.set('at', new Date(at).toISOString().replace('.000Z', 'Z'));
        return next;
      },
      { replace: true },
    );
  return [pinned, pin];
}
