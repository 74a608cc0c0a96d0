import { brandOf } from '../brands/brand-of.ts';
import type { Digest } from '../digest.ts';

/** What a person who looks for a build may have meant by a text; each that is not null is one way to read it. */
export interface Find {
  /** The number of a build: `221`, `#221`, `build 221`. */
  readonly number: number | null;
  /** How a commit or a digest begins: four hex digits at least, in lower case. */
  readonly hex: string | null;
  /** Words of a subject or an author, or of a brand's name; in lower case, without doubles. */
  readonly words: readonly string[];
}

const mostWords = 8;

/** Reads what a person looks for. Null when nothing is said. Up to eight words count. */
export function readFind(text: string): Find | null {
  const said = text.trim().toLowerCase().replace(/\s+/g, ' ');
  if (said === '') return null;
  const number = /^(?:build |#)?(\d{1,9})$/.exec(said)?.[1];
  const hex = /^[0-9a-f]{4,64}$/.test(said) ? said : null;
  return {
    number: number === undefined ? null : Number(number),
    hex,
    words: [...new Set(said.split(' '))].slice(0, mostWords),
  };
}

/** The artifacts whose brand is spoken of by all the words, such as `blue eave on vee` or a part of it. */
export function brandedBy(
  words: readonly string[],
  artifacts: readonly Digest[],
): readonly Digest[] {
  return artifacts.filter((digest) => {
    const spoken = brandOf(digest).name.split(' ');
    return words.every((word) => spoken.includes(word));
  });
}
