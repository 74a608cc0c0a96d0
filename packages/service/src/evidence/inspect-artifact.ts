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
import { and, eq, inArray } from 'drizzle-orm';
import { blobPath } from '../artifacts/blob-store.ts';
import { changedAmong, type LastingFile } from '../artifacts/lasting-files.ts';
import type { Deps } from '../base/deps.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import {
  artifacts,
  deploys,
  environments,
  fileFindings,
  inspections,
  variables,
} from '../database/tables.ts';
import { environmentByName, environmentsWaitingFor } from '../environments/environment-rows.ts';
import { aimOfBuild } from '../map/aim.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { placeOf } from '../variables/given-values.ts';
import { openValue } from '../variables/seal.ts';
import { type FileKind, factsKey, fileKinds, kindOf } from './file-facts.ts';
import type { FileRead } from './reading-worker.ts';
import { unwrittenFiles } from './unwritten-files.ts';

/** A file over this is not read: it is said to be large instead. */
const mostBytes = 20 << 20;
const shortestSecret = 6;

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
  await deps.db
    .insert(inspections)
    .values({ projectId: project.id, artifact: what.artifact, ...row })
    .onDuplicateKeyUpdate({ set: row });
  // Kept behind the scenes: without it the same bytes would only be read again.
  keepFacts(deps, learned).catch((err: unknown) => deps.log.warn({ err }, 'facts were not kept'));
  return findings;
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
  for (let from = 0; from < digests.length; from += 2000) {
    const rows = await deps.db
      .select()
      .from(fileFindings)
      .where(
        and(
          inArray(fileFindings.file, digests.slice(from, from + 2000)),
          inArray(fileFindings.rules, [...kinds.keys()]),
        ),
      );
    for (const row of rows) {
      const kind = kinds.get(row.rules);
      // Written by keepFacts alone, as facts.
      if (kind !== undefined) known.set(kind, row.file, row.facts as FileFacts);
    }
  }
  return files.map(isUnknown);
}

async function keepFacts(
  deps: Deps,
  learned: readonly { readonly file: KindedFile; readonly facts: FileFacts }[],
): Promise<void> {
  for (let from = 0; from < learned.length; from += 200) {
    await deps.db
      .insert(fileFindings)
      .ignore()
      .values(
        learned.slice(from, from + 200).map(({ file, facts }) => ({
          file: file.digest,
          rules: factsKey(file.kind),
          facts,
        })),
      );
  }
}

async function secretValues(
  deps: Deps,
  projectId: string,
): Promise<readonly { readonly name: string; readonly value: string }[]> {
  const rows = await deps.db
    .select()
    .from(variables)
    .where(and(eq(variables.projectId, projectId), eq(variables.kind, 'secret')));
  return rows
    .map((row) => ({
      name: row.name,
      value: openValue(deps.keys.sealing, placeOf(row), row.sealed),
    }))
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

async function liveSize(
  deps: Deps,
  project: ProjectRow,
  build: BuildRecord,
): Promise<{ readonly files: number; readonly bytes: number } | null> {
  const names = await destinationsOf(deps, project, build);
  if (names.length === 0) return null;
  const [row] = await deps.db
    .select({ files: artifacts.files, bytes: artifacts.bytes })
    .from(environments)
    .innerJoin(deploys, eq(deploys.id, environments.servesDeployId))
    .innerJoin(
      artifacts,
      and(eq(artifacts.projectId, environments.projectId), eq(artifacts.digest, deploys.artifact)),
    )
    .where(
      and(
        eq(environments.projectId, project.id),
        eq(environments.living, true),
        inArray(environments.name, [...names]),
      ),
    );
  return row ?? null;
}
