import { type Manifest, rulesOfManifest, type SiteFile } from '../artifacts/manifest.ts';
import { counted } from '../counted.ts';
import { writeAddress } from '../serving/address.ts';
import { makeResolver } from '../serving/resolve-path.ts';
import { makeFields, makeImmutable } from '../serving/site-headers.ts';
import { brokenReferences } from './broken-references.ts';
import type { Finding } from './finding.ts';
import type { Inspected } from './inspected.ts';
import { finding } from './inspection-rules.ts';
import { wrongRules } from './wrong-rules.ts';

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
  const said = `${counted(files, 'file')} and ${bytes} bytes; what is live has ${live.files} and ${live.bytes}`;
  const lostFiles = live.files >= judged.files && files < live.files * sharp.filesLeft;
  const lostBytes = live.bytes >= judged.bytes && bytes < live.bytes * sharp.bytesLeft;
  if (lostFiles || lostBytes) return [finding('shrank', '', null, said)];
  return bytes > live.bytes * sharp.bytesMore ? [finding('grew', '', null, said)] : [];
}
