import { timingSafeEqual } from 'node:crypto';
import type { RoutingEntry, RoutingTable } from '@vaquero/contracts';
import {
  type Admits,
  type Digest,
  hostName,
  type Pass,
  readHostLabel,
  strictest,
} from '@vaquero/core';
import { type ArtifactIndex, problemWith, readIndex } from './artifact-index.ts';
import { makeMoved } from './moved.ts';
import { makePasses } from './passes.ts';
import type { TableCopy } from './table-copy.ts';

/** What a host name stands for. */
export type Place =
  | {
      readonly kind: 'environment';
      readonly entry: RoutingEntry;
      readonly artifact: ArtifactIndex | null;
      /** What was served within the last hour, the newest first. */
      readonly earlier: readonly { readonly index: ArtifactIndex; readonly until: number }[];
    }
  | {
      readonly kind: 'artifact';
      readonly artifact: ArtifactIndex;
      /** Null for one that nothing names yet. */
      readonly made: {
        readonly project: string;
        readonly build: number;
        readonly commit: string;
      } | null;
    };

/** Whom a host admits. */
export interface Gate {
  readonly admits: Admits;
  /** The hash of the link that is lent for it. */
  readonly link: string | null;
  /** Of the top of the lanes. */
  readonly isTop: boolean;
  /** The artifact whose own address it is; an edge elsewhere may not have it yet. */
  readonly artifact: Digest | null;
}

/** The routing table in force. */
export interface LiveTable {
  readonly revision: () => number;
  /** Where visitors who are not admitted are sent, and the key of what they come back with. */
  readonly admission: () => RoutingTable['admission'];
  /** Where a host leads that is called otherwise lately: an address without a path. */
  readonly moved: (host: string) => string | undefined;
  /** What a host was that has ended lately. */
  readonly ended: (host: string) => RoutingTable['ended'][string] | undefined;
  /** Hosts that answer with an artifact, for somebody who is admitted where members are or only where anyone is. */
  readonly answersAt: (artifact: Digest, isMember: boolean) => readonly string[];
  /** Whether a request that shows this key is the service's own. */
  readonly mayLook: (shown: string | undefined) => boolean;
  /** What the service vouches for by a word; undefined where it is none of its words. */
  readonly vouchedFor: (word: string) => Pass | undefined;
  /** The revision that the next start would serve. */
  readonly onDisk: () => number;
  /** `shown` is the key with which the service itself looks at an artifact that nothing names yet. */
  readonly place: (host: string, shown?: string) => Place | undefined;
  /** The same, of a host that was asked for since the table is in force; undefined for others. Never throws. */
  readonly knownPlace: (host: string) => Place | undefined;
  /** Whom a host admits, known before anything of it is read. Undefined for one that stands for nothing. */
  readonly gate: (host: string, shown?: string) => Gate | undefined;
  /** From now on whoever shows this key sees every artifact of the store at its address. */
  readonly letLook: (key: string) => void;
  /** The artifacts that environments answer with. */
  readonly served: () => ReadonlySet<Digest>;
  /** Digests of the files of those artifacts. */
  readonly servedFiles: () => ReadonlySet<string>;
  /** Puts a newer table in force for every next request, at once; settles when a table as new is on disk too. */
  readonly adopt: (table: RoutingTable) => Promise<void>;
  /** Makes an artifact ready; returns what keeps it from being served. */
  readonly prepare: (artifact: Digest) => string | null;
  readonly stop: () => Promise<void>;
}

const mostPlaces = 10_000;
/** A name and a port; a port of thousands of digits is no other place, and need not be remembered. */
const longestHost = 300;

/** With so many artifacts a new one is compared: the newest of as many environments. */
const mostCompared = 4;

const noTable: RoutingTable = {
  revision: -1,
  hosts: {},
  artifacts: [],
  artifactsBase: '',
  admission: null,
  ended: {},
  moved: { hosts: {}, projects: {} },
};

/** Makes the table in force, beginning with the copy on the edge's disk if it has one. */
export async function openLiveTable(store: string, copy: TableCopy): Promise<LiveTable> {
  const indexes = new Map<Digest, ArtifactIndex>();
  /** Artifacts whose every blob was seen to be there: they are named by the table, so none of it is swept. */
  const prepared = new Set<Digest>();
  let table: RoutingTable = (await copy.read()) ?? noTable;
  let named = names(table);
  let hosts = hostsOf(table.hosts);
  let ended = hostsOf(table.ended);
  let moved = makeMoved(table);
  /** The revision of the copy on disk; tables that come while one is written are overtaken by the newest. */
  let onDisk = table.revision;
  let writing: Promise<unknown> = Promise.resolve();
  const looks = makeLooks();
  const passes = makePasses();

  const index = (artifact: Digest): ArtifactIndex => indexIn(indexes, store, artifact);

  /** What the service looks at before it is named. */
  const lookedAt = (host: string, shown: string | undefined): Digest | undefined =>
    looks.mayLook(shown) ? digestIn(host, table.artifactsBase) : undefined;

  /** What a host name stands for. */
  const find = (asked: string, shown: string | undefined): Place | undefined => {
    const host = hostName(asked);
    const entry = hosts.get(host);
    if (entry !== undefined) return environmentPlace(entry, index);
    const known = named.get(host);
    const digest = known?.artifact ?? lookedAt(host, shown);
    return digest === undefined
      ? undefined
      : { kind: 'artifact', artifact: index(digest), made: known ?? null };
  };

  const places = makePlaces(find);

  function putInForce(next: RoutingTable): void {
    hosts = hostsOf(next.hosts);
    ended = hostsOf(next.ended);
    moved = makeMoved(next);
    places.clear();
    const isSame = next.artifacts === table.artifacts && next.artifactsBase === table.artifactsBase;
    table = next;
    // A move changes no artifact: what they are called and what is kept of them stays.
    if (isSame) return;
    named = names(next);
    forget(indexes, next);
    for (const artifact of prepared) if (!indexes.has(artifact)) prepared.delete(artifact);
  }

  async function keepCopy(): Promise<void> {
    const newest = table;
    if (newest.revision <= onDisk) return;
    await copy.write(newest);
    onDisk = newest.revision;
  }

  return {
    revision: () => table.revision,
    admission: () => table.admission,
    mayLook: looks.mayLook,
    vouchedFor: (word) => {
      const { admission } = table;
      return admission === null ? undefined : passes.read(word, admission.key);
    },
    onDisk: () => onDisk,
    ended: (asked) => ended.get(hostName(asked)),
    moved: (asked) => moved(hostName(asked)),
    answersAt: (artifact, isMember) => answersAt(table, artifact, isMember),
    gate: (asked, shown) => {
      const host = hostName(asked);
      return gateOf(hosts.get(host), named.get(host), () => lookedAt(host, shown));
    },
    letLook: looks.expect,
    served: () => servedBy(table),
    servedFiles: () => filesOf([...servedBy(table)].map(index)),
    place: places.get,
    knownPlace: places.known,
    adopt: (next) => {
      // It was committed: visitors need not wait for this machine's disk, only whoever is told that it is done.
      if (next.revision > table.revision) putInForce(next);
      const kept = writing.then(keepCopy);
      writing = kept.catch(() => undefined); // Its caller hears of the failure; the next table is tried all the same.
      return kept;
    },
    stop: async () => {
      await writing;
      await copy.stop();
    },
    prepare: (artifact) => {
      if (prepared.has(artifact) && indexes.has(artifact)) return null;
      try {
        const problem = problemWith(store, index(artifact), newestOf(prepared, indexes));
        if (problem === null) prepared.add(artifact);
        return problem;
      } catch (error) {
        indexes.delete(artifact);
        return error instanceof Error ? error.message : String(error);
      }
    },
  };
}

function gateOf(
  entry: RoutingEntry | undefined,
  known: Known | undefined,
  lookedAt: () => Digest | undefined,
): Gate | undefined {
  if (entry !== undefined)
    return { admits: entry.admits, link: entry.link, isTop: isTopOf(entry), artifact: null };
  const artifact = known?.artifact ?? lookedAt();
  if (artifact === undefined) return undefined;
  // An artifact has no link of its own: who has that of an environment sees the environment.
  const isOpen = known === undefined || known.admits === 'anyone';
  return { admits: isOpen ? 'anyone' : 'members', link: null, isTop: false, artifact };
}

/** A table of the version before does not say which is the top: it was called production then. */
export function isTopOf({ isTop, environment }: RoutingEntry): boolean {
  return isTop ?? environment === 'production';
}

function environmentPlace(entry: RoutingEntry, index: (artifact: Digest) => ArtifactIndex): Place {
  const serving = entry.targets[0]?.artifact;
  return {
    kind: 'environment',
    entry,
    artifact: serving === undefined ? null : index(serving),
    get earlier() {
      return entry.earlier.map((one) => ({ index: index(one.artifact), until: one.until }));
    },
  };
}

/** Remembers places by the names by which they were asked for: the same object for as long as a table is in force. */
function makePlaces(find: LiveTable['place']) {
  const known = new Map<string, Place>();
  return {
    get: (asked: string, shown?: string): Place | undefined => {
      const again = shown === undefined ? known.get(asked) : undefined;
      if (again !== undefined) return again;
      const found = find(asked, shown);
      // Names that stand for nothing are without number.
      const isKept = asked.length <= longestHost && known.size < mostPlaces;
      if (found !== undefined && shown === undefined && isKept) known.set(asked, found);
      return found;
    },
    known: (asked: string): Place | undefined => known.get(asked),
    clear: (): void => known.clear(),
  };
}

/** The index of an artifact, made at its first use. */
function indexIn(
  indexes: Map<Digest, ArtifactIndex>,
  store: string,
  artifact: Digest,
): ArtifactIndex {
  const known = indexes.get(artifact);
  if (known !== undefined) return known;
  const made = readIndex(store, artifact);
  indexes.set(artifact, made);
  return made;
}

function filesOf(all: readonly ArtifactIndex[]): ReadonlySet<string> {
  return new Set(all.flatMap(({ files }) => [...files.values()].map((file) => file.digest)));
}

/** Of the artifacts whose every blob was seen, those that came last. */
function newestOf(
  prepared: ReadonlySet<Digest>,
  indexes: ReadonlyMap<Digest, ArtifactIndex>,
): readonly ArtifactIndex[] {
  return [...prepared].slice(-mostCompared).flatMap((one) => indexes.get(one) ?? []);
}

/** A table's hosts by their names. A map, because whoever asks names the key. */
function hostsOf<Entry>(hosts: Readonly<Record<string, Entry>>): ReadonlyMap<string, Entry> {
  return new Map(Object.entries(hosts).map(([host, entry]) => [hostName(host), entry]));
}

/** Tells the service, by its key, from everybody else; whoever guesses sees what everybody sees. */
function makeLooks() {
  let expected: Buffer | null = null;
  return {
    expect: (key: string): void => {
      expected = Buffer.from(key);
    },
    mayLook: (shown: string | undefined): boolean => {
      const given = Buffer.from(shown ?? '');
      return (
        expected !== null && given.length === expected.length && timingSafeEqual(given, expected)
      );
    },
  };
}

type Known = RoutingTable['artifacts'][number];

/** Hosts of artifacts: by `build-218.project`, and by digest for whoever asks with it. */
function names(table: RoutingTable): { readonly get: (host: string) => Known | undefined } {
  const base = hostName(table.artifactsBase);
  const byBuild = new Map(
    table.artifacts.map((known) => [`build-${known.build}.${known.project}.${base}`, known]),
  );
  // The same bytes of several builds are as closed as the most closed of them.
  const byDigest = new Map<Digest, Known>();
  for (const known of table.artifacts) {
    const before = byDigest.get(known.artifact);
    const admits = strictest([known.admits, ...(before === undefined ? [] : [before.admits])]);
    byDigest.set(known.artifact, { ...(before ?? known), admits });
  }
  return {
    get: (host) => {
      const digest = digestIn(host, base);
      return digest === undefined ? byBuild.get(host) : byDigest.get(digest);
    },
  };
}

/** The digest that an artifact's own address names. */
function digestIn(host: string, artifactsBase: string): Digest | undefined {
  const [label = ''] = host.split('.', 1);
  return host === `${label}.${hostName(artifactsBase)}` ? readHostLabel(label) : undefined;
}

/** The artifacts that a table's environments answer with: what they serve, and what their open pages may still ask for. */
export function servedBy({ hosts }: RoutingTable): ReadonlySet<Digest> {
  return new Set(
    Object.values(hosts).flatMap(({ targets, earlier }) =>
      [...targets, ...earlier].map((one) => one.artifact),
    ),
  );
}

function answersAt(table: RoutingTable, artifact: Digest, isMember: boolean): readonly string[] {
  const isFor = ({ admits }: { readonly admits: Admits }): boolean =>
    isMember || admits === 'anyone';
  const environments = Object.entries(table.hosts)
    .filter(([, entry]) => entry.targets.some((target) => target.artifact === artifact))
    .filter(([, entry]) => isFor(entry))
    .map(([host]) => host);
  const builds = table.artifacts
    .filter((known) => known.artifact === artifact && isFor(known))
    .map(({ build, project }) => `build-${build}.${project}.${table.artifactsBase}`);
  return [...environments, ...builds].slice(0, mostAnswers);
}

/** So many places are said at most where the same bytes answer. */
const mostAnswers = 5;

/** Indexes of artifacts that no name leads to any more need not be kept. */
function forget(indexes: Map<Digest, ArtifactIndex>, table: RoutingTable): void {
  const wanted = new Set([...table.artifacts.map((known) => known.artifact), ...servedBy(table)]);
  for (const digest of indexes.keys()) if (!wanted.has(digest)) indexes.delete(digest);
}
