import type { RoutingEntry, RoutingTable } from '@vaquero/contracts';
import {
  type Admits,
  type Digest,
  hostLabelOf,
  hostName,
  type Pass,
  readArtifactHost,
} from '@vaquero/core';
import type { ArtifactIndex } from './artifact-index.ts';
import { makeArtifactIndexes } from './artifact-indexes.ts';
import {
  isOfArtifact,
  makeArtifactNames,
  type NameAnswer,
  type NamedArtifact,
} from './artifact-names.ts';
import { makePlaces } from './known-places.ts';
import { makeLooks } from './looks.ts';
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
        readonly outsider: boolean;
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
  readonly current: () => RoutingTable;
  /** Where visitors who are not admitted are sent, and the key of what they come back with. */
  readonly admission: () => RoutingTable['admission'];
  /** Where a host leads that is called otherwise lately: an address without a path. */
  readonly moved: (host: string) => string | undefined;
  /** What a host was that has ended lately. */
  readonly ended: (host: string) => RoutingTable['ended'][string] | undefined;
  /** Hosts that answer with an artifact, for somebody who is admitted where members are or only where anyone is. */
  readonly answersAt: (artifact: Digest, isMember: boolean) => readonly string[];
  /** The name under which the api is to be asked what a host stands for, before it is answered; undefined for others. */
  readonly toBeAsked: (host: string, shown?: string) => string | undefined;
  /** Takes what the api said that a host stands for. */
  readonly learn: (host: string, answer: NameAnswer) => void;
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

const noTable: RoutingTable = {
  revision: -1,
  hosts: {},
  artifactsBase: '',
  admission: null,
  ended: {},
  moved: { hosts: {}, projects: {} },
};

/** Makes the table in force, beginning with the copy on the edge's disk if it has one. */
export async function openLiveTable(store: string, copy: TableCopy): Promise<LiveTable> {
  const indexes = makeArtifactIndexes(store);
  let table: RoutingTable = (await copy.read()) ?? noTable;
  const names = makeArtifactNames();
  let hosts = hostsOf(table.hosts);
  let ended = hostsOf(table.ended);
  let moved = makeMoved(table);
  /** The revision of the copy on disk; tables that come while one is written are overtaken by the newest. */
  let onDisk = table.revision;
  let writing: Promise<unknown> = Promise.resolve();
  const looks = makeLooks();
  const passes = makePasses();

  /** What the service looks at before it is named. */
  const lookedAt = (host: string, shown: string | undefined): Digest | undefined => {
    if (!looks.mayLook(shown)) return undefined;
    const address = readArtifactHost(host, table.artifactsBase);
    return address?.by === 'digest' ? address.digest : undefined;
  };
  const named = (host: string): NamedArtifact | undefined =>
    names.known(host, table.revision) ?? undefined;

  /** What a host name stands for. */
  const find = (asked: string, shown: string | undefined): Place | undefined => {
    const host = hostName(asked);
    const entry = hosts.get(host);
    if (entry !== undefined) return environmentPlace(entry, indexes.of);
    const known = named(host);
    const digest = known?.artifact ?? lookedAt(host, shown);
    return digest === undefined
      ? undefined
      : { kind: 'artifact', artifact: indexes.of(digest), made: known?.builds[0] ?? null };
  };

  const places = makePlaces(find);

  function putInForce(next: RoutingTable): void {
    hosts = hostsOf(next.hosts);
    ended = hostsOf(next.ended);
    moved = makeMoved(next);
    places.clear();
    table = next;
    indexes.keep(servedBy(next));
  }

  async function keepCopy(): Promise<void> {
    const newest = table;
    if (newest.revision <= onDisk) return;
    await copy.write(newest);
    onDisk = newest.revision;
  }

  return {
    revision: () => table.revision,
    current: () => table,
    admission: () => table.admission,
    mayLook: looks.mayLook,
    vouchedFor: (word) => {
      const { admission } = table;
      return admission === null ? undefined : passes.read(word, admission.key);
    },
    onDisk: () => onDisk,
    ended: (asked) => ended.get(hostName(asked)),
    moved: (asked) => moved(hostName(asked)),
    answersAt: (artifact, isMember) => {
      const own = named(hostOfArtifact(artifact, table));
      return answersAt(table, own, artifact, isMember);
    },
    toBeAsked: (asked, shown) => {
      const host = hostName(asked);
      const isOne = !looks.mayLook(shown) && isOfArtifact(host, table.artifactsBase);
      return isOne && names.known(host, table.revision) === undefined ? host : undefined;
    },
    learn: names.learn,
    gate: (asked, shown) => {
      const host = hostName(asked);
      return gateOf(hosts.get(host), named(host), () => lookedAt(host, shown));
    },
    letLook: looks.expect,
    served: () => servedBy(table),
    servedFiles: () => filesOf([...servedBy(table)].map(indexes.of)),
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
    prepare: indexes.prepare,
  };
}

function gateOf(
  entry: RoutingEntry | undefined,
  known: NamedArtifact | undefined,
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

function filesOf(all: readonly ArtifactIndex[]): ReadonlySet<string> {
  return new Set(all.flatMap(({ files }) => [...files.values()].map((file) => file.digest)));
}

/** A table's hosts by their names. A map, because whoever asks names the key. */
function hostsOf<Entry>(hosts: Readonly<Record<string, Entry>>): ReadonlyMap<string, Entry> {
  return new Map(Object.entries(hosts).map(([host, entry]) => [hostName(host), entry]));
}

/** The host of an artifact's digest. */
export function hostOfArtifact(
  artifact: Digest,
  { artifactsBase }: Pick<RoutingTable, 'artifactsBase'>,
): string {
  return `${hostLabelOf(artifact)}.${hostName(artifactsBase)}`;
}

/** The artifacts that a table's environments answer with: what they serve, and what their open pages may still ask for. */
export function servedBy({ hosts }: RoutingTable): ReadonlySet<Digest> {
  return new Set(
    Object.values(hosts).flatMap(({ targets, earlier }) =>
      [...targets, ...earlier].map((one) => one.artifact),
    ),
  );
}

function answersAt(
  table: RoutingTable,
  known: NamedArtifact | undefined,
  artifact: Digest,
  isMember: boolean,
): readonly string[] {
  const isFor = ({ admits }: { readonly admits: Admits }): boolean =>
    isMember || admits === 'anyone';
  const environments = Object.entries(table.hosts)
    .filter(([, entry]) => entry.targets.some((target) => target.artifact === artifact))
    .filter(([, entry]) => isFor(entry))
    .map(([host]) => host);
  const builds = (known?.builds ?? [])
    .filter(isFor)
    .map(({ build, project }) => `build-${build}.${project}.${table.artifactsBase}`);
  return [...environments, ...builds].slice(0, mostAnswers);
}

/** So many places are said at most where the same bytes answer. */
const mostAnswers = 5;
