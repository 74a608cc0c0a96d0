import { type Manifest, rulesOfManifest } from '../artifacts/manifest.ts';
import {
  type AddressPattern,
  isWithin,
  readAddress,
  readPattern,
  writeAddress,
} from '../serving/address.ts';
import { makeResolver, type Resolver } from '../serving/resolve-path.ts';
import type { Move, Substitute } from '../serving/serving-rules.ts';

/** A rule of an artifact that does not do what its writer means. */
export interface WrongRule {
  readonly rule: 'rule-circle' | 'rule-nowhere' | 'rule-shadowed';
  readonly message: string;
}

/** What rules are judged by. */
interface Judged {
  /** Addresses of all files, sorted: there can be hundreds of thousands, and a thousand rules. */
  readonly addresses: readonly string[];
  readonly base: string;
  readonly resolve: Resolver;
  /** The same as if there were no rules but the site's own. */
  readonly unmoved: Resolver;
}

/** Finds rules that are never asked, hide a page, lead in a circle or to what is not published. */
export function wrongRules(manifest: Manifest): readonly WrongRule[] {
  const rules = { ...rulesOfManifest(manifest), missing: null };
  if (rules.moved.length + rules.instead.length === 0) return [];
  const paths = manifest.site.files.map(({ path }): string => path);
  const there = new Set(paths);
  const has = (path: string): boolean => there.has(path);
  const judged = {
    addresses: paths.map((path) => `${rules.base}${path}`).toSorted(compareText),
    base: rules.base,
    resolve: makeResolver(has, rules),
    unmoved: makeResolver(has, { ...rules, moved: [], instead: [] }),
  };
  return [...wrongMoves(rules.moved, judged), ...wrongSubstitutes(rules.instead, judged)];
}

function wrongMoves(moved: readonly Move[], judged: Judged): readonly WrongRule[] {
  const sources = moved.map(({ from }) => readPattern(from));
  return moved.flatMap(({ from, to }, place): readonly WrongRule[] => {
    const pattern = sources[place] ?? readPattern(from);
    const before = earlierFor(sources, place);
    if (before !== -1)
      return [shadowed(`moved ${from} is never asked: ${moved[before]?.from} stands before it`)];
    const page = hiddenBy(pattern, judged);
    const hides =
      page === undefined ? [] : [shadowed(`moved ${from} hides ${page}, which nobody can reach`)];
    const answer = judged.resolve(pattern.isOpen ? `${from.slice(0, -1)}any` : from);
    if (answer.kind !== 'moved') {
      const message = `moved ${from} leads in a circle by ${to}, and does not hold`;
      return [...hides, { rule: 'rule-circle', message }];
    }
    if (!isNowhere(answer.to, to, judged)) return hides;
    return [
      ...hides,
      { rule: 'rule-nowhere', message: `moved ${from} leads to ${to}, which is not there` },
    ];
  });
}

function wrongSubstitutes(
  instead: readonly Substitute[],
  { unmoved }: Judged,
): readonly WrongRule[] {
  const sources = instead.map(({ at }) => readPattern(at));
  return instead.flatMap(({ at, page }, place): readonly WrongRule[] => {
    const before = earlierFor(sources, place);
    if (before !== -1)
      return [shadowed(`instead ${at} is never asked: ${instead[before]?.at} stands before it`)];
    if (fileAt(unmoved, page) === undefined)
      return [
        {
          rule: 'rule-nowhere',
          message: `instead ${at} is answered by ${page}, which is not there`,
        },
      ];
    const isSite = sources[place]?.isOpen === false && fileAt(unmoved, at) !== undefined;
    return isSite ? [shadowed(`instead ${at} is never asked: the site has that page`)] : [];
  });
}

function shadowed(message: string): WrongRule {
  return { rule: 'rule-shadowed', message };
}

/** The place of an earlier rule that takes all addresses of one; -1 when there is none. */
function earlierFor(sources: readonly AddressPattern[], place: number): number {
  const own = sources[place];
  return own === undefined
    ? -1
    : sources.slice(0, place).findIndex((other) => isWithin(own, other));
}

/** A published file that a move keeps everybody from. */
function hiddenBy(pattern: AddressPattern, judged: Judged): string | undefined {
  return pattern.isOpen
    ? firstBelow(pattern.start, judged)?.slice(judged.base.length)
    : fileAt(judged.unmoved, writeAddress(pattern.start));
}

/** The first address of a file that begins in some way. */
function firstBelow(start: string, { addresses }: Judged): string | undefined {
  let [low, high] = [0, addresses.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((addresses[middle] ?? '') < start) low = middle + 1;
    else high = middle;
  }
  const first = addresses[low];
  return first?.startsWith(start) === true ? first : undefined;
}

function compareText(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

/** The file behind an address, whichever of its addresses that is. */
function fileAt(resolve: Resolver, address: string): string | undefined {
  const answer = resolve(address);
  const last = answer.kind === 'moved' ? resolve(answer.to) : answer;
  return last.kind === 'file' ? last.path : undefined;
}

/** Whether nothing is published where a move within the host arrives; with an open target, nowhere below it. */
function isNowhere(arrived: string, to: string, judged: Judged): boolean {
  if (!arrived.startsWith('/')) return false;
  const [path = ''] = arrived.split(/[?#]/, 1);
  if (judged.resolve(path).kind === 'file') return false;
  if (!to.endsWith('/*')) return true;
  return firstBelow(readAddress(to.slice(0, -1)) ?? '', judged) === undefined;
}
