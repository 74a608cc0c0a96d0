import {
  type Digest,
  type FileFacts,
  type Finding,
  type Inspected,
  inspect,
  type Manifest,
  rulesOfManifest,
  type SiteFile,
  worstFirst,
} from '@vaquero/core';
import { blobPath } from '../artifacts/blob-store.ts';
import { changedAmong, type LastingFile } from '../artifacts/lasting-file-rows.ts';
import type { Deps } from '../base/deps.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { environmentByName, environmentsWaitingFor } from '../environments/environment-rows.ts';
import { aimOfBuild } from '../map/aim.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { placeOf } from '../variables/given-values.ts';
import { openValue } from '../variables/seal.ts';
import { secretsOf } from '../variables/variable-rows.ts';
import { type FileKind, factsKey, fileKinds, kindOf } from './file-facts.ts';
import { factsKnown, keepFacts, keepInspection, liveSize } from './inspection-rows.ts';
import type { FileRead } from './reading-worker.ts';
import { unwrittenFiles } from './unwritten-files.ts';

/** A file over this is not read: it is said to be large instead. */
const mostBytes = 20 << 20;

/** What is to be inspected: an artifact that a build made from a folder of its tree. */
export interface ToInspect {
  readonly project: ProjectRow;
  readonly build: BuildRecord;
  readonly artifact: Digest;
  readonly manifest: Manifest;
  readonly store: string;
  /** Its files that never change under their address. */
  readonly lasting: readonly LastingFile[];
  /** The published folder, from the repository's root. */
  readonly site: string;
}

/**
 * Inspects an artifact before anything serves it, and keeps what was found. Of the files, only bytes that
 * were never read before are read; values of secrets are sought in all of them, since those change.
 */
export async function inspectArtifact(deps: Deps, what: ToInspect): Promise<readonly Finding[]> {
  const begun = performance.now();
  const { project, build, manifest } = what;
  const files = manifest.site.files
    .filter((file) => file.sizeBytes <= mostBytes)
    .map((file) => ({ ...file, kind: kindOf(file.path) }));
  const [isNew, values, unwritten, live, changed] = await Promise.all([
    unknownAmong(deps, files),
    secretValues(deps, project.id),
    unwrittenFiles(deps, what),
    destinationsOf(deps, project, build).then((names) => liveSize(deps.db, project.id, names)),
    changedSince(deps, what),
  ]);
  const seen = new Set<string>();
  const toRead = files.filter((file, place) => {
    if (isNew[place] === false && values.length === 0) return false;
    const key = `${file.digest} ${file.kind}`;
    return !seen.has(key) && seen.add(key);
  });
  const fresh = new Set(files.filter((_, place) => isNew[place]));
  const asked = toRead.map((file) => ({
    digest: file.digest,
    source: blobPath(what.store, file.digest),
    kind: file.kind,
    facts: fresh.has(file),
  }));
  const read = await deps.reading.files(asked, values);
  const readAt = (place: number): FileRead | null => {
    const one = read[place];
    return one === undefined || one === 'late' ? null : one;
  };
  const late = new Set(
    toRead.filter((_, place) => read[place] === 'late').map((one) => one.digest),
  );
  const learned = toRead.flatMap((file, place) => {
    const facts = readAt(place)?.facts ?? null;
    return facts === null ? [] : [{ file, facts }];
  });
  for (const { file, facts } of learned) deps.reading.known.set(file.kind, file.digest, facts);
  const leaks = toRead.flatMap((file, place) =>
    (readAt(place)?.values ?? []).map((value) => ({ path: file.path, ...value })),
  );
  const facts = new Map<string, FileFacts>();
  for (const file of files) {
    const own = deps.reading.known.get(file.kind, file.digest);
    if (own !== undefined) facts.set(file.digest, own);
  }
  const findings = worstFirst(
    inspect({ manifest, facts, leaks, late, unwritten, changed, live }),
  ).slice(0, 500);
  const tookMs = Math.round(performance.now() - begun);
  const isLeaking = findings.some(({ rule }) => rule === 'secret-value' || rule === 'key-format');
  const row = { findings, leaks: isLeaking, at: deps.clock(), tookMs };
  await keepInspection(deps.db, project.id, what.artifact, row);
  // Kept behind the scenes: without it the same bytes would only be read again.
  keepFacts(deps.db, learned).catch((err: unknown) =>
    deps.log.warn({ err }, 'facts were not kept'),
  );
  return findings;
}

/** Files that are said never to change and did, against what their environments served. */
async function changedSince(
  deps: Deps,
  { project, build, manifest, lasting }: ToInspect,
): Promise<Inspected['changed']> {
  if (lasting.length === 0) return [];
  const changed = new Map<string, number>();
  for (const name of await destinationsOf(deps, project, build)) {
    const environment = await environmentByName(deps.db, project.id, name);
    if (environment === undefined) continue;
    const found = await changedAmong(deps.db, environment.id, lasting, deps.clock());
    for (const one of found) changed.set(one.address, one.build);
  }
  const { base } = rulesOfManifest(manifest);
  return [...changed].map(([address, number]) => ({
    path: address.slice(base.length),
    build: number,
  }));
}

interface KindedFile extends SiteFile {
  readonly kind: FileKind;
}

/** Which files nobody has read yet. What the database knows of the others is in memory then. */
async function unknownAmong(deps: Deps, files: readonly KindedFile[]): Promise<readonly boolean[]> {
  const { known } = deps.reading;
  const isUnknown = (file: KindedFile): boolean => known.get(file.kind, file.digest) === undefined;
  const digests = [...new Set(files.filter(isUnknown).map((file) => file.digest))];
  const kinds = new Map(fileKinds.map((kind) => [factsKey(kind), kind]));
  for (const row of await factsKnown(deps.db, digests, [...kinds.keys()])) {
    const kind = kinds.get(row.rules);
    // Written by keepFacts alone, as facts.
    if (kind !== undefined) known.set(kind, row.file, row.facts as FileFacts);
  }
  return files.map(isUnknown);
}

/** Shorter ones are found everywhere, and prove nothing. */
const shortestSecret = 6;

/** The secrets of a project that no file may hold, by their names. */
async function secretValues(
  { db, keys }: Deps,
  projectId: string,
): Promise<readonly { readonly name: string; readonly value: string }[]> {
  return (await secretsOf(db, projectId))
    .map((row) => ({ name: row.name, value: openValue(keys.sealing, placeOf(row), row.sealed) }))
    .filter((one) => one.value.length >= shortestSecret);
}

/** Environments that a build's artifact would go to by itself. */
async function destinationsOf(
  deps: Deps,
  project: ProjectRow,
  build: BuildRecord,
): Promise<readonly string[]> {
  const [{ rules }, waiting] = await Promise.all([
    aimOfBuild(deps.db, project, build),
    environmentsWaitingFor(deps.db, build.id),
  ]);
  return [...new Set([...rules, ...waiting])];
}
