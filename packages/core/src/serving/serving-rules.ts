/** What is said of how a site is answered; every address begins with `/` and is one of the host, base included. */
export interface AddressRules {
  /** The folder of the host that the site is built for; begins and ends with `/`. */
  readonly base: string;
  /** Old addresses and where they lead, asked before the site; the first that matches holds. */
  readonly moved: readonly Move[];
  /** Pages for addresses that the site does not have, such as those that a page's own script takes apart. */
  readonly instead: readonly Substitute[];
  /** Header fields of what matches; of one that is said twice the later holds. */
  readonly headers: readonly HeaderRule[];
  /** Files whose bytes never change under their address: browsers keep them for a year. */
  readonly immutable: readonly string[];
}

/** An old address, `*` standing for the rest of it, and a path of the host or an address elsewhere. */
export interface Move {
  readonly from: string;
  readonly to: string;
}

/** Addresses, `*` standing for the rest, and the page that answers them with 200. */
export interface Substitute {
  readonly at: string;
  readonly page: string;
}

export interface HeaderRule {
  readonly at: string;
  readonly fields: Readonly<Record<string, string>>;
}

/** All that says how an artifact's files are answered. */
export interface ServingRules extends AddressRules {
  /** The page of a folder. */
  readonly entry: string;
  /** The page of a miss. */
  readonly missing: string | null;
  /** Whether pages are found at their address without the ending, which is then the one that holds. */
  readonly endings: 'kept' | 'left-out';
}

/** What holds where nothing is said. */
export const plainRules: AddressRules = {
  base: '/',
  moved: [],
  instead: [],
  headers: [],
  immutable: [],
};

/** The rules of which some may be said, all of them said. */
export function rulesOf(
  said: Partial<AddressRules> & Pick<ServingRules, 'entry' | 'missing'>,
): ServingRules {
  const { entry, missing } = said;
  const { base, moved, instead, headers, immutable } = { ...plainRules, ...said };
  return { entry, missing, base, moved, instead, headers, immutable, endings: 'left-out' };
}
