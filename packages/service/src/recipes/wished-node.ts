import type { WishedNode } from '@vaquero/core';
import { coerce, Range, satisfies, subset, validRange } from 'semver';

/** The lines of Node that builds are made with. */
const lines = [20, 22, 24] as const;
/** Names under which versions that are kept for long went, and their lines. Source: Node's release schedule. */
const longLived: Readonly<Record<string, number>> = {
  argon: 4,
  boron: 6,
  carbon: 8,
  dubnium: 10,
  erbium: 12,
  fermium: 14,
  gallium: 16,
  hydrogen: 18,
  iron: 20,
  jod: 22,
  krypton: 24,
};

/** Reads which Node a folder wishes, from the first of the files that say so; null when none does. */
export async function wishedNode(
  read: (name: string) => Promise<string | undefined>,
  engines: string | null,
): Promise<WishedNode | null> {
  for (const name of ['.nvmrc', '.node-version', '.tool-versions']) {
    const text = (await read(name)) ?? '';
    const said =
      name === '.tool-versions'
        ? /^node(?:js)?\s+(\S+)/m.exec(text)?.[1]
        : text
            .split('\n')
            .map((line) => line.replace(/#.*/, '').trim())
            .find((line) => line !== '');
    const wish = said === undefined ? null : lineFor(said);
    if (wish !== null && said !== undefined) return { from: name, text: said, ...wish };
  }
  const wish = engines === null ? null : lineFor(engines);
  return engines === null || wish === null
    ? null
    : { from: 'package.json', text: engines, ...wish };
}

/**
 * The lowest line of which some version satisfies what is wished; where none does, the next above. Null for words that
 * name no version.
 */
export function lineFor(said: string): { readonly line: number; readonly isMet: boolean } | null {
  const word = said.replace(/^v(?=\d)/, '').toLowerCase();
  if (/^(?:node|stable|latest|current|\*|lts\/\*|lts|lts\/-1)$/.test(word))
    return { line: 22, isMet: true };
  const named = longLived[word.replace(/^lts\//, '')];
  const range = validRange(named === undefined ? word : `${named}.x`);
  if (range === null) return null;
  const wished = new Range(range);
  const met = lines.find((line) => meets(wished, line));
  if (met !== undefined) return { line: met, isMet: true };
  const from = coerce(range)?.major ?? 0;
  return { line: lines.find((line) => line >= from) ?? 24, isMet: false };
}

/** Whether some version of a line satisfies a range: its newest does, or the range names versions of it alone. */
function meets(range: Range, line: number): boolean {
  return satisfies(`${line}.999.999`, range) || subset(range, `${line}.x`);
}
