import { type Manifest, rulesOfManifest, type SiteFile } from '../artifacts/manifest.ts';
import { missedBase } from '../serving/missed-base.ts';
import { makeResolver, type Resolver } from '../serving/resolve-path.ts';
import { triedAddresses } from '../serving/tried-addresses.ts';
import type { Finding } from './finding.ts';
import type { Inspected, Reference } from './inspected.ts';
import { finding } from './inspection-rules.ts';
import { targetOf } from './reference-target.ts';

/** What a browser cannot run or read, and a bundler turns into what it can. */
const sourceEndings = /\.(?:tsx?|mts|cts|jsx|vue|svelte|astro|s[ac]ss|less|styl)$/i;

/** Finds references of pages and other files that lead nowhere within their site, or ask for what no browser can use. */
export function brokenReferences({ manifest, facts }: Inspected): readonly Finding[] {
  const byPath = new Map<string, SiteFile>(manifest.site.files.map((file) => [file.path, file]));
  const rules = { ...rulesOfManifest(manifest), missing: null };
  const resolve = makeResolver((each) => byPath.has(each), rules);
  const broken = (path: string, base: string | null, reference: Reference): Finding | null => {
    const target = targetOf(`${rules.base}${path}`, base, reference.to);
    if (target === null) return null;
    const first = resolve(target.path);
    const answer = first.kind === 'moved' && first.to.startsWith('/') ? resolve(first.to) : first;
    if (isMissed(answer, reference.kind)) {
      const rule = reference.kind === 'asset' ? 'broken-asset' : 'broken-link';
      const said = `refers to ${reference.to}, which is not there`;
      return { ...finding(rule, path, reference.line, said), ...cures(reference) };
    }
    const page = answer.kind === 'file' ? byPath.get(answer.path) : undefined;
    const anchors = page === undefined ? undefined : facts.get(page.digest)?.anchors;
    const isJump = target.anchor !== '' && target.anchor !== 'top' && page?.path.endsWith('.html');
    if (isJump !== true || anchors === undefined || anchors.includes(target.anchor)) return null;
    const said = `refers to ${reference.to}, and ${page?.path} has no ${target.anchor}`;
    return finding('broken-anchor', path, reference.line, said);
  };
  const deep = triedAddresses(manifest).slice(1);
  const cures = baseCure(manifest, facts, (each) => byPath.has(each));
  return manifest.site.files.flatMap((file) => {
    const own = facts.get(file.digest);
    const base = own?.base ?? null;
    return (own?.references ?? []).flatMap(
      (each) =>
        unbuiltSource(file.path, base, each) ??
        broken(file.path, base, each) ??
        deep
          .filter(({ path }) => path === file.path)
          .flatMap(({ address }) => brokenFrom(resolve, file.path, base, each, address) ?? [])
          .slice(0, 1),
    );
  });
}

/** What is to be done about references of a site that was built for a folder of the host, and is published at its root. */
function baseCure(
  { site }: Manifest,
  facts: Inspected['facts'],
  has: (path: string) => boolean,
): (reference: Reference) => { readonly cure?: string } {
  const entry = site.files.find(({ path }) => path === site.entry);
  const references = (entry === undefined ? [] : (facts.get(entry.digest)?.references ?? []))
    .filter(({ kind }) => kind === 'asset')
    .map(({ to }) => to);
  const base = 'base' in site && site.base !== '/' ? null : missedBase(has, references);
  const cure = `The site is built for ${base}: say serve.base: ${base} in the recipe, or build it for /.`;
  return ({ to }) => (base !== null && to.startsWith(base) ? { cure } : {});
}

/** Whether a reference finds nothing of its kind: an asset that a page stands in for is not there. */
function isMissed(answer: ReturnType<Resolver>, kind: Reference['kind']): boolean {
  if (answer.kind === 'absent' || answer.kind === 'malformed') return true;
  return kind === 'asset' && answer.kind === 'file' && answer.by === 'instead';
}

/** What a page finds from its own address, and not from one that it stands in for. */
function brokenFrom(
  resolve: Resolver,
  path: string,
  base: string | null,
  reference: Reference,
  address: string,
): Finding | null {
  const target = targetOf(address, base, reference.to);
  if (
    target === null ||
    reference.to.startsWith('#') ||
    !isMissed(resolve(target.path), reference.kind)
  )
    return null;
  const rule = reference.kind === 'asset' ? 'broken-asset' : 'broken-link';
  const message = `refers to ${reference.to}, which is not there from ${address}; begin it with /, or give the page a base`;
  return finding(rule, path, reference.line, message);
}

/** A page that asks for sources is one that was written for a bundler, whether they are there or not. */
function unbuiltSource(path: string, base: string | null, reference: Reference): Finding | null {
  const target = targetOf(`/${path}`, base, reference.to);
  if (reference.kind !== 'asset' || target === null || !sourceEndings.test(target.path))
    return null;
  if (!/\.html?$/i.test(path)) return null;
  const message = `asks for ${reference.to}, which no browser can use as it is`;
  return finding('unbuilt-source', path, reference.line, message);
}
