/** Words that want to stand at a place in a row; the lower `rank`, the sooner they get it. */
export interface WantedWords<Key> {
  readonly key: Key;
  readonly x: number;
  readonly width: number;
  readonly rank: number;
}

/** Words that got a place: `x` is where they begin, shifted left when they would leave the row. */
export interface PlacedWords<Key> {
  readonly key: Key;
  readonly x: number;
}

/**
 * The collision rule of event words: by rank, then from the right (what is newer says more), each gets
 * its place if it keeps `gap` pixels from all placed before it; the others are left out, never moved on.
 */
export function placeWords<Key>(
  wanted: readonly WantedWords<Key>[],
  rowWidth: number,
  gap: number,
): readonly PlacedWords<Key>[] {
  const placed: { readonly key: Key; readonly x: number; readonly end: number }[] = [];
  for (const words of wanted.toSorted((a, b) => a.rank - b.rank || b.x - a.x)) {
    const x = Math.max(0, Math.min(words.x, rowWidth - words.width));
    const end = x + words.width;
    if (placed.every((other) => end + gap <= other.x || x >= other.end + gap)) {
      placed.push({ key: words.key, x, end });
    }
  }
  return placed.toSorted((a, b) => a.x - b.x).map(({ key, x }) => ({ key, x }));
}
