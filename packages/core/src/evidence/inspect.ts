import { type Manifest, rulesOfManifest, type SiteFile } from '../artifacts/manifest.ts';
import { writeAddress } from '../serving/address.ts';
import { missedBase } from '../serving/missed-base.ts';
import { makeResolver, type Resolver } from '../serving/resolve-path.ts';
import { makeFields, makeImmutable } from '../serving/site-headers.ts';
import { triedAddresses } from '../serving/tried-addresses.ts';
import type { Finding, Severity } from './finding.ts';
import { wrongRules } from './wrong-rules.ts';

/** A place that a file of a site refers to, as it is written there. */
export interface Reference {
  readonly to: string;
  readonly line: number | null;
  readonly kind: 'page' | 'asset';
}

/** What was read in one file's bytes; says nothing of where the file stands. */
export interface FileFacts {
  readonly references: readonly Reference[];
  /** Names that links can jump to. */
  readonly anchors: readonly string[];
  /** Where relative references count from, if the page says so. */
  readonly base: string | null;
  readonly privateAddresses: readonly { readonly address: string; readonly line: number }[];
  readonly keys: readonly { readonly what: string; readonly line: number }[];
  readonly isPointer: boolean;
}

/** An artifact as the inspection looks at it. */
export interface Inspected {
  readonly manifest: Manifest;
  /** By digest; a file that was too large to be read has none. */
  readonly facts: ReadonlyMap<string, FileFacts>;
  /** Secrets whose value stands in a file, by the file's path. */
  readonly leaks: readonly {
    readonly path: string;
    readonly name: string;
    readonly line: number;
  }[];
  /** Digests of files that took too long to be read. */
  readonly late: ReadonlySet<string>;
  /** Paths of the output that hold what was committed there. */
  readonly unwritten: ReadonlySet<string>;
  /** Files that are said never to change, and did since the build that was served where it would go. */
  readonly changed: readonly { readonly path: string; readonly build: number }[];
  /** What is live where it would go, if anything is. */
  readonly live: { readonly files: number; readonly bytes: number } | null;
}

/** Rules of the inspection: how bad a breach is, and what to do about it. */
export const inspectionRules = {
  'secret-value': [
    'error',
    'Take the value out of what the build writes, and set a new one: whoever saw the output knows it.',
  ],
  'key-format': ['error', 'Remove it, and make the key void if it was ever real.'],
  'lfs-pointer': [
    'error',
    'Fetch the real file before the build (git lfs), or commit it as it is.',
  ],
  'not-inspected': [
    'error',
    'Make it simpler: what nobody can look through in time, nobody can vouch for.',
  ],
  'unbuilt-source': [
    'error',
    'Publish the folder that the build writes instead of the sources: only a bundler serves such a file.',
  ],
  'broken-asset': ['error', 'Correct the reference, or have the build write the file.'],
  'broken-link': ['warning', 'Correct the link, or write the page.'],
  'broken-anchor': ['note', 'Correct the part behind #, or give the target that id.'],
  'rule-circle': ['error', 'Let one of the moves lead to the page that is meant.'],
  'rule-nowhere': ['error', 'Let it lead to a page that is published, or take the rule out.'],
  'rule-shadowed': [
    'warning',
    'Take it out, or let it stand before the one that takes its addresses.',
  ],
  'immutable-changed': [
    'error',
    'Give the file a name that changes with its bytes, or take its pattern out of serve.immutable.',
  ],
  'kept-long': [
    'warning',
    'Let browsers ask anew for pages: keep only files whose name changes with their bytes.',
  ],
  'private-address': [
    'warning',
    'Visitors cannot reach it: use the public address, or a path of this site.',
  ],
  'not-written': [
    'warning',
    'It came with the commit and no step wrote it: remove old output from the repository.',
  ],
  'case-clash': [
    'warning',
    'Rename one: systems that do not tell upper from lower case keep only one.',
  ],
  'large-file': ['warning', 'Make it smaller, or serve it from a place made for large files.'],
  'source-map': [
    'note',
    'Leave it if visitors may read the source; otherwise turn source maps off.',
  ],
  shrank: [
    'warning',
    'Look at the output: much of it may be missing. If it is meant, build it again and say so (vaquero build-again PROJECT BUILD --meant).',
  ],
  grew: ['note', 'Look at what was added.'],
} as const satisfies Readonly<Record<string, readonly [Severity, string]>>;
export type InspectionRule = keyof typeof inspectionRules;

/** Rules whose findings keep an artifact from going live, unless a project says otherwise. */
export const holdingByDefault: readonly InspectionRule[] = [
  'secret-value',
  'key-format',
  'lfs-pointer',
  'not-inspected',
  'unbuilt-source',
  'broken-asset',
  'immutable-changed',
  'shrank',
];

/** What a browser cannot run or read, and a bundler turns into what it can. */
const sourceEndings = /\.(?:tsx?|mts|cts|jsx|vue|svelte|astro|s[ac]ss|less|styl)$/i;

const largeBytes = 10 << 20;
/** Where a shrinkage or a growth is sharp: a third gone in files or half in bytes, thrice as large. */
const sharp = { filesLeft: 0.67, bytesLeft: 0.5, bytesMore: 3 } as const;
/** Below these a third or a half is a page more or less. */
const judged = { files: 6, bytes: 20_000 } as const;

/** Inspects an artifact before anything serves it. Pure: what was read of the files is given. */
export function inspect(inspected: Inspected): readonly Finding[] {
  const { files } = inspected.manifest.site;
  return [
    ...inspected.leaks.map(({ path, name, line }) =>
      finding('secret-value', path, line, `holds the value of the secret ${name}`),
    ),
    ...files.flatMap((file) => ofFile(file, inspected)),
    ...brokenReferences(inspected),
    ...wrongRules(inspected.manifest).map(({ rule, message }) => finding(rule, '', null, message)),
    ...keptLong(inspected.manifest),
    ...inspected.changed.map(({ path, build }) =>
      finding(
        'immutable-changed',
        path,
        null,
        `is said never to change, and had other bytes in build ${build}: browsers would keep those`,
      ),
    ),
    ...caseClashes(files),
    ...ofSize(inspected),
  ];
}

function finding(
  rule: InspectionRule,
  path: string,
  line: number | null,
  message: string,
): Finding {
  const [severity, cure] = inspectionRules[rule];
  return { rule, severity, message, path, line, cure };
}

function ofFile(file: SiteFile, { facts, late, unwritten }: Inspected): readonly Finding[] {
  const own = facts.get(file.digest);
  const { path } = file;
  return [
    ...(late.has(file.digest)
      ? [finding('not-inspected', path, null, 'took too long to be read')]
      : []),
    ...(own?.keys ?? []).map(({ what, line }) =>
      finding('key-format', path, line, `holds ${what}`),
    ),
    ...(own?.privateAddresses ?? []).map(({ address, line }) =>
      finding('private-address', path, line, `speaks of ${address}`),
    ),
    ...(own?.isPointer === true
      ? [finding('lfs-pointer', path, 1, 'is a pointer to a large file, not the file')]
      : []),
    ...(path.endsWith('.map') ? [finding('source-map', path, null, 'is a source map')] : []),
    ...(file.sizeBytes > largeBytes
      ? [finding('large-file', path, null, `is ${Math.round(file.sizeBytes / (1 << 20))} MiB`)]
      : []),
    ...(unwritten.has(path)
      ? [finding('not-written', path, null, 'was not written by this build')]
      : []),
  ];
}

function brokenReferences({ manifest, facts }: Inspected): readonly Finding[] {
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

const mostPages = 2000;

/** Pages that browsers are told to keep: after a rollback visitors would still see the one that was undone. */
function keptLong(manifest: Manifest): readonly Finding[] {
  const rules = rulesOfManifest(manifest);
  if (rules.headers.length === 0 && rules.immutable.length === 0) return [];
  // Patterns over all pages of a large site would hold up everybody else: what is said of some is said.
  const fieldsAt = makeFields(
    rules.headers.filter(({ fields }) =>
      Object.keys(fields).some((name) => name.toLowerCase() === 'cache-control'),
    ),
  );
  const pages = manifest.site.files.filter(({ path }) => path.endsWith('.html'));
  const paths = new Set<string>(manifest.site.files.map(({ path }) => path));
  const resolve = makeResolver((path) => paths.has(path), { ...rules, moved: [] });
  const isImmutable = makeImmutable(rules);
  return pages.slice(0, mostPages).flatMap(({ path }) => {
    const address = writeAddress(`${rules.base}${path}`);
    const asked = resolve(address);
    const said = fieldsAt(asked.kind === 'moved' ? asked.to : address).get('cache-control') ?? '';
    const seconds = /(?:^|[\s,])max-age=["']?(\d+)/.exec(said)?.[1];
    const isKept =
      isImmutable(path) ||
      (seconds !== undefined && Number(seconds) > 0 && !/no-cache|no-store/.test(said));
    return isKept
      ? [
          finding(
            'kept-long',
            path,
            null,
            `is a page that browsers keep for ${isImmutable(path) ? 'a year' : `${seconds} s`} after a move or a rollback`,
          ),
        ]
      : [];
  });
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

/**
 * Where a reference of the page at an address leads within its own site: an absolute path and what stands behind `#`.
 * Null for what leads elsewhere. Source: RFC 3986, sections 5.2.2 and 5.2.4.
 */
export function targetOf(
  address: string,
  base: string | null,
  to: string,
): { readonly path: string; readonly anchor: string } | null {
  const written = to.trim();
  if (/^[a-z][a-z0-9+.-]*:/i.test(written) || written.startsWith('//')) return null;
  if (base !== null && /^(?:[a-z][a-z0-9+.-]*:|\/\/)/i.test(base)) return null;
  const [beforeHash = '', anchor = ''] = written.split('#', 2);
  const [path = ''] = beforeHash.split('?', 1);
  const from = base === null ? address : joined(address, base);
  return { path: path === '' ? address : joined(from, path), anchor: decoded(anchor) };
}

function joined(from: string, path: string): string {
  const parts = path.startsWith('/') ? [] : from.split('/').slice(1, -1);
  const steps = path.replace(/^\//, '').split('/');
  for (const [place, step] of steps.entries()) {
    const isLast = place === steps.length - 1;
    if (step === '..') parts.pop();
    else if (step !== '.') parts.push(step);
    if (isLast && (step === '..' || step === '.')) parts.push('');
  }
  return `/${parts.join('/')}`;
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    // A malformed escape is compared as it is written, as browsers do (HTML 7.4.6.4, "find a potential indicated element").
    return text;
  }
}

function caseClashes(files: readonly SiteFile[]): readonly Finding[] {
  const seen = new Map<string, string>();
  return files.flatMap(({ path }) => {
    const lower = path.toLowerCase();
    const other = seen.get(lower);
    seen.set(lower, path);
    return other === undefined
      ? []
      : [finding('case-clash', path, null, `differs from ${other} in upper and lower case only`)];
  });
}

function ofSize({ manifest, live }: Inspected): readonly Finding[] {
  if (live === null) return [];
  const files = manifest.site.files.length;
  const bytes = manifest.site.files.reduce((sum, file) => sum + file.sizeBytes, 0);
  const said = `${files} files and ${bytes} bytes; what is live has ${live.files} and ${live.bytes}`;
  const lostFiles = live.files >= judged.files && files < live.files * sharp.filesLeft;
  const lostBytes = live.bytes >= judged.bytes && bytes < live.bytes * sharp.bytesLeft;
  if (lostFiles || lostBytes) return [finding('shrank', '', null, said)];
  return bytes > live.bytes * sharp.bytesMore ? [finding('grew', '', null, said)] : [];
}
