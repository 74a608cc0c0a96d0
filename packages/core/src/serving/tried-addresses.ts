import { type Manifest, rulesOfManifest } from '../artifacts/manifest.ts';
import type { Digest } from '../digest.ts';
import { readPattern, writeAddress } from './address.ts';
import { makeResolver } from './resolve-path.ts';

/** An address, and the file whose bytes it must answer with. */
export interface TriedAddress {
  readonly address: string;
  readonly path: string;
  readonly digest: Digest;
}

const mostDeep = 8;

/**
 * Addresses at which an artifact is looked at before it goes live: its front page, and a deep link for each page that
 * stands in for others. What moves to another host is not among them.
 */
export function triedAddresses(manifest: Manifest): readonly TriedAddress[] {
  const rules = rulesOfManifest(manifest);
  const byPath = new Map<string, Digest>(
    manifest.site.files.map(({ path, digest }) => [path, digest]),
  );
  const resolve = makeResolver((path) => byPath.has(path), rules);
  const tried = (target: string, isDeep: boolean): readonly TriedAddress[] => {
    const first = resolve(target);
    const address = first.kind === 'moved' ? (first.to.split(/[?#]/, 1)[0] ?? '') : target;
    const answer = first.kind === 'moved' ? resolve(address) : first;
    if (answer.kind !== 'file' || (isDeep && answer.by !== 'instead')) return [];
    const digest = byPath.get(answer.path);
    return digest === undefined ? [] : [{ address, path: answer.path, digest }];
  };
  const deep = rules.instead.slice(0, mostDeep).map(({ at }) => {
    const { start, isOpen } = readPattern(at);
    return writeAddress(isOpen ? `${start}deep/link` : start);
  });
  return [
    ...tried(writeAddress(rules.base), false),
    ...deep.flatMap((address) => tried(address, true)),
  ];
}
