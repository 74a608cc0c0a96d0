/** What stands above an answer, beside what its body needs. */
export interface Head {
  /** Vaquero's own fields, name and value in turn: nothing that a site says stands in for them. */
  readonly own: readonly string[];
  /** Fields that the site's recipe sets, by their names in lower case. */
  readonly said: ReadonlyMap<string, string>;
  /** Browsers may keep what is sent for a year: its address never has other bytes. */
  readonly isLasting: boolean;
  /** Not everybody may have it: nothing between here and the visitor keeps it. */
  readonly isClosed?: boolean;
  /** False for what nobody keeps at all. */
  readonly isKept?: boolean;
}

/** Pages are revalidated on each request: nobody sees an old page after a deploy or a rollback. */
const revalidated = ['Cache-Control', 'no-cache'];
/** For a year, and asked for anew by no reload. Source: RFC 8246. */
const lasting = ['Cache-Control', 'public, max-age=31536000, immutable'];
/** The same for what is not everybody's. */
const ownOnly = {
  revalidated: ['Cache-Control', 'private, no-cache'],
  lasting: ['Cache-Control', 'private, max-age=31536000, immutable'],
};
const nosniff = ['X-Content-Type-Options', 'nosniff'];

/** The fields of an answer. What the site says stands in for what is only usual; `Vary` is added to. */
export function headList(
  { own, said, isLasting, isClosed = false, isKept = true }: Head,
  body: readonly string[],
): string[] {
  const cache = !isKept
    ? ['Cache-Control', 'no-store']
    : isClosed
      ? ownOnly[isLasting ? 'lasting' : 'revalidated']
      : isLasting
        ? lasting
        : revalidated;
  if (said.size === 0) return [...own, ...body, ...cache, ...nosniff];
  // The type of a body is known where the body is put together.
  const kept = new Set(['content-type', ...pairs(own).map(([name]) => name.toLowerCase())]);
  if (isLasting || isClosed) kept.add('cache-control');
  const usual = pairs([...body, ...cache, ...nosniff]).flatMap(([name, value]) => {
    const lower = name.toLowerCase();
    const instead = kept.has(lower) ? undefined : said.get(lower);
    if (lower === 'vary' && instead !== undefined) return [name, `${value}, ${instead}`];
    return instead === undefined ? [name, value] : [];
  });
  const more = [...said].flatMap(([name, value]) => {
    const isMerged = name === 'vary' && pairs(body).some(([other]) => other === 'Vary');
    return kept.has(name) || isMerged ? [] : [name, value];
  });
  return [...own, ...usual, ...more];
}

function pairs(list: readonly string[]): readonly (readonly [string, string])[] {
  return list.flatMap((name, place) =>
    place % 2 === 0 ? [[name, list[place + 1] ?? ''] as const] : [],
  );
}
