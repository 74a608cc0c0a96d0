import {
  type Digest,
  type FileFacts,
  type Finding,
  type Inspected,
  inspect,
  type Manifest,
  rulesOfManifest,
  worstFirst,
} from '@vaquero/core';
import { blobPath } from '../artifacts/blob-store.ts';
import { changedAmong, type LastingFile } from '../artifacts/lasting-file-rows.ts';
import type { Deps } from '../base/deps.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { environmentByName } from '../environments/environment-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { kindOf } from './file-facts.ts';
import {
  destinationsOf,
  keepFacts,
  keepInspection,
  liveSize,
  secretValues,
  unknownAmong,
} from './inspection-rows.ts';
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
    liveSize(deps, project, build),
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
  keepFacts(deps, learned).catch((err: unknown) => deps.log.warn({ err }, 'facts were not kept'));
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
