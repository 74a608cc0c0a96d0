import type { IncomingMessage, ServerResponse } from 'node:http';
import { type Answer, type Digest, withQuery } from '@vaquero/core';
import type { Logger } from 'pino';
import { BlobDamaged } from '../blobs/read-blob.ts';
import type { ArtifactIndex, ServedFile } from '../routing/artifact-index.ts';
import { type AskNames, NameUnknown } from '../routing/ask-names.ts';
import { hostOfArtifact, isTopOf, type LiveTable, type Place } from '../routing/live-table.ts';
import { isMember as showsMember, type Turned, turnedAway } from './admission.ts';
import { type Head, headList } from './head.ts';
import { markPath, markStyle, sendMarked } from './mark-pages.ts';
import {
  hasEnded,
  movedTo,
  noSuchHost,
  notAdmitted,
  notFound,
  notLookedUp,
  servesNothing,
  trouble,
} from './own-pages.ts';
import type { Bytes } from './representation.ts';
import { nothingSent, type Sent, sendFile } from './send-file.ts';
import type { Visits } from './visits.ts';

/** What answering takes. */
export interface Serving extends Bytes {
  readonly visits: Visits;
  readonly table: LiveTable;
  readonly clock: () => number;
  /** Whether the api, which lets people in, is not reached now. */
  readonly isApiAway: () => boolean;
  /** Sees to it that the table knows what a host stands for. */
  readonly askName: AskNames;
  /** Brings an artifact that is not here yet; null where the store is shared. */
  readonly bring: ((artifact: Digest) => Promise<void>) | null;
  /** Fetches anew what of an artifact is damaged here; null where the store is shared. */
  readonly mend: ((artifact: Digest) => Promise<void>) | null;
  readonly log: Logger;
}

/** Answers one request of the public, and counts it. Never rejects: a fault becomes an honest 500. */
export async function answer(
  serving: Serving,
  req: IncomingMessage,
  res: ServerResponse,
): Promise<void> {
  const begun = performance.now();
  const asked = { host: hostOf(req), shown: shownBy(req), ...targetOf(req.url ?? '/') };
  let sent: Sent = nothingSent;
  try {
    sent = await answerOrThrow(serving, req, res, asked).catch(async (err: unknown) => {
      const artifact = serving.table.place(asked.host, asked.shown)?.artifact;
      if (!(err instanceof BlobDamaged) || res.headersSent || artifact == null) throw err;
      if (serving.mend === null) throw err;
      await serving.mend(artifact.digest);
      return answerOrThrow(serving, req, res, asked);
    });
  } catch (err) {
    const isUnknown = err instanceof NameUnknown;
    // That the api is away is logged once, where its orders are followed: strangers must not fill the log.
    if (!isUnknown)
      serving.log.error({ err, host: asked.host, target: asked.target }, 'request not answered');
    if (res.headersSent) res.destroy();
    else if (isUnknown)
      sent = send(req, res, 503, ownHead(['Retry-After', '5']), page, notLookedUp);
    else sent = send(req, res, 500, ownHead([]), page, trouble(err instanceof BlobDamaged));
  }
  count(serving, asked, res.statusCode, sent, begun);
}

/** What is asked for, and by the service itself if it shows the key. */
interface Asked {
  readonly host: string;
  readonly shown: string | undefined;
  readonly target: string;
  readonly query: string | undefined;
}

/** Counts what environments answered, and not what the service itself looks at. */
function count(
  { visits, table, isApiAway }: Serving,
  { host, shown, target }: Asked,
  status: number,
  { bytes, at }: Sent,
  begun: number,
): void {
  // Whoever was sent away has not visited.
  if (shown !== undefined || status === 303 || status === 401 || status === 403) return;
  if (status === 503 && isApiAway()) return;
  const place = table.knownPlace(host);
  if (place?.kind !== 'environment' || place.entry.deploy === null) return;
  const { project, environment, deploy } = place.entry;
  const tookMs = (at ?? performance.now()) - begun;
  visits.count({ project, environment, deploy, status, bytes, tookMs, path: target });
}

function ownHead(own: readonly string[]): Head {
  return { own, said: noneSaid, isLasting: false };
}

function hostOf(req: IncomingMessage): string {
  return req.headers.host ?? '';
}

/** The key of the service itself, if the request bears one. */
function shownBy(req: IncomingMessage): string | undefined {
  const shown = req.headers['vaquero-look'];
  return typeof shown === 'string' ? shown : undefined;
}

async function answerOrThrow(
  serving: Serving,
  req: IncomingMessage,
  res: ServerResponse,
  { host, shown, target, query }: Asked,
): Promise<Sent> {
  await serving.askName(host, shown);
  const gate = serving.table.gate(host, shown);
  if (gate === undefined) return nothingThere(serving, req, res, host);
  const turned = turnedAway(serving, req, gate, { host, key: shown, target, query });
  // Closed to all the world, it tells search engines so: they would take a refusal for a yes.
  if (turned !== null)
    return target === robots && !gate.isTop ? noRobots(req, res, []) : turnAway(req, res, turned);
  // Artifacts of all builds have addresses; an edge elsewhere fetches one when somebody asks for it who may.
  if (gate.artifact !== null) await serving.bring?.(gate.artifact);
  const place = serving.table.place(host, shown);
  if (place === undefined) return nothingThere(serving, req, res, host);
  if (req.method !== 'GET' && req.method !== 'HEAD') return otherMethod(req, res, place);
  if (place.artifact === null) {
    const text = place.kind === 'environment' ? servesNothing(place.entry) : '';
    return send(req, res, 503, ownHead([...ownFields(place), 'Retry-After', '10']), page, text);
  }
  if (target === markPath && place.kind === 'environment')
    return send(req, res, 200, ownHead(ownFields(place)), 'text/css; charset=utf-8', markStyle);
  const isClosed = gate.admits !== 'anyone';
  return answerFrom(serving, req, res, {
    place,
    artifact: place.artifact,
    isClosed,
    target,
    query,
  });
}

/** A host that stands for nothing, or for nothing any more. */
async function nothingThere(
  serving: Serving,
  req: IncomingMessage,
  res: ServerResponse,
  host: string,
): Promise<Sent> {
  const { table } = serving;
  const to = table.moved(host);
  // For a while only: whoever is given the name next is not to be passed by for ever.
  if (to !== undefined && (req.url ?? '').startsWith('/'))
    return send(
      req,
      res,
      308,
      ownHead(['Location', `${to}${req.url}`, 'Cache-Control', 'max-age=300']),
      page,
      movedTo(to),
    );
  const ended = table.ended(host);
  if (ended === undefined) return send(req, res, 404, ownHead([]), page, noSuchHost(host));
  const isMember = showsMember(serving, req, host);
  // That it has ended is said with the api away, too; where its bytes still answer is what else it knows.
  if (ended.artifact !== null)
    await serving.askName(hostOfArtifact(ended.artifact, table.current())).catch(unlessUnknown);
  const text = hasEnded(ended, {
    isMember,
    console: table.admission()?.console ?? null,
    answersAt: ended.artifact === null ? [] : table.answersAt(ended.artifact, isMember),
  });
  // What a member is told is nobody else's, and is kept nowhere.
  const gone = ['X-Robots-Tag', 'noindex', 'Cache-Control', 'private, no-store'];
  return send(req, res, 410, ownHead(gone), page, text);
}

function unlessUnknown(error: unknown): void {
  if (!(error instanceof NameUnknown)) throw error;
}

/** Answers whoever is admitted from an artifact. */
function answerFrom(
  serving: Serving,
  req: IncomingMessage,
  res: ServerResponse,
  {
    place,
    artifact,
    isClosed,
    target,
    query,
  }: Pick<Asked, 'target' | 'query'> & {
    readonly place: Place;
    readonly artifact: ArtifactIndex;
    readonly isClosed: boolean;
  },
): Promise<Sent> | Sent {
  const own = isClosed ? [...ownFields(place), ...closedFields] : ownFields(place);
  const found = artifact.resolve(target);
  const isLasting =
    found.kind === 'file' && found.by === 'site' && artifact.isImmutable(found.path);
  const head = { own, said: artifact.fieldsAt(target), isLasting, isClosed };
  if (found.kind === 'moved') {
    const to = withQuery(found.to, query);
    const moved = { ...head, own: [...own, 'Location', to] };
    return send(req, res, 308, moved, plain, `Moved to ${to}\n`);
  }
  const earlier = earlierAsset(serving, place, found, target);
  if (earlier !== undefined) {
    const from = [...own, 'Vaquero-Served-From', earlier.artifact.digest];
    const { isLasting: lasts } = earlier;
    return sendFile(serving, req, res, earlier.file, 200, { ...head, own: from, isLasting: lasts });
  }
  const file = found.kind === 'file' ? artifact.files.get(found.path) : undefined;
  const isMissed = found.kind !== 'file' || found.status === 404 || found.by === 'instead';
  if (isMissed && target === robots && !isTop(place)) return noRobots(req, res, own);
  if (found.kind === 'file' && file !== undefined) {
    // What not everybody may have is looked at each time who asks.
    const again = found.status === 200 && query === undefined && !isClosed ? place : null;
    return sendPublished(serving, req, res, { place, file, status: found.status, head, again });
  }
  const status = found.kind === 'malformed' ? 400 : 404;
  return send(req, res, status, ownHead(own), page, notFound(status));
}

/** Sends a file of a place, with its mark where the map has its pages marked. */
async function sendPublished(
  serving: Serving,
  req: IncomingMessage,
  res: ServerResponse,
  {
    place,
    file,
    status,
    head,
    again,
  }: {
    readonly place: Place;
    readonly file: ServedFile;
    readonly status: 200 | 404;
    readonly head: Head;
    readonly again: Place | null;
  },
): Promise<Sent> {
  if (place.kind === 'environment' && place.entry.marks && !isTop(place)) {
    const { environment } = place.entry;
    const sent = await sendMarked(serving, req, res, file, status, head, environment);
    if (sent !== null) return sent;
  }
  return sendFile(serving, req, res, file, status, head, again);
}

function noRobots(req: IncomingMessage, res: ServerResponse, own: readonly string[]): Sent {
  return send(req, res, 200, ownHead(own), plain, nothingForRobots);
}

/** Nothing but the top of the lanes is for search engines, unless a site says so itself. */
const robots = '/robots.txt';
const nothingForRobots = 'User-agent: *\nDisallow: /\n';

/** Pages of other hosts, which may be the same site to a browser, take no part of it. */
const closedFields = ['Cross-Origin-Resource-Policy', 'same-origin'];

/** Answers whoever is not admitted; neither browsers nor what stands between keep it, and no address is handed on. */
function turnAway(req: IncomingMessage, res: ServerResponse, turned: Turned): Sent {
  const { status, fields, why } = turned;
  const own = [...fields, 'Referrer-Policy', 'no-referrer'];
  const head: Head = { ...ownHead(own), isKept: false };
  if (status === 303) return send(req, res, status, head, plain, `${why}\n`);
  return send(req, res, status, head, page, notAdmitted(why));
}

/** What a site of files answers to what is neither GET nor HEAD. */
function otherMethod(req: IncomingMessage, res: ServerResponse, place: Place): Sent {
  const own = ownFields(place);
  if (req.method !== 'OPTIONS') {
    const head = ownHead([...own, 'Allow', methods]);
    return send(req, res, 405, head, plain, `Only ${methods} are answered here.\n`);
  }
  res.writeHead(204, headList(ownHead(own), ['Allow', methods]));
  res.end();
  return nothingSent;
}

const methods = 'GET, HEAD, OPTIONS';

/** Path and query of a request target; one that is a whole address is taken for its path. Source: RFC 9112 section 3.2. */
function targetOf(url: string): { readonly target: string; readonly query: string | undefined } {
  const path = url.startsWith('/') ? url : (/^https?:\/\/[^/?]*(.*)$/i.exec(url)?.[1] ?? url);
  const mark = path.indexOf('?');
  const target = mark === -1 ? path : path.slice(0, mark);
  return {
    target: target === '' ? '/' : target,
    query: mark === -1 ? undefined : path.slice(mark + 1),
  };
}

/**
 * For an hour after a move, an asset that only an artifact served before has: open pages keep theirs, the newest that
 * has it first. Pages never fall back.
 */
function earlierAsset(
  serving: Serving,
  place: Place,
  found: Answer,
  target: string,
): { file: ServedFile; artifact: ArtifactIndex; isLasting: boolean } | undefined {
  const isMissed =
    found.kind === 'absent' ||
    (found.kind === 'file' && (found.status === 404 || found.by === 'instead'));
  if (!isMissed || place.kind !== 'environment') return undefined;
  const now = serving.clock();
  for (const { index, until } of place.earlier) {
    if (now > until) continue;
    const there = index.resolve(target);
    if (there.kind !== 'file' || there.by !== 'site' || there.status !== 200) continue;
    const file = index.files.get(there.path);
    if (file !== undefined && !file.mediaType.startsWith('text/html'))
      return { file, artifact: index, isLasting: index.isImmutable(there.path) };
  }
  return undefined;
}

function isTop(place: Place): boolean {
  return place.kind === 'environment' && isTopOf(place.entry);
}

/** Every answer names what it came from. */
function ownFields(place: Place): readonly string[] {
  if (place.kind === 'artifact') {
    return [
      'Vaquero-Artifact',
      place.artifact.digest,
      ...(place.made === null
        ? []
        : [
            'Vaquero-Project',
            place.made.project,
            'Vaquero-Build',
            String(place.made.build),
            'Vaquero-Commit',
            place.made.commit,
            ...(place.made.outsider ? ['Vaquero-Code-Of', 'an outsider'] : []),
          ]),
      'X-Robots-Tag',
      'noindex',
    ];
  }
  const { entry } = place;
  return [
    'Vaquero-Project',
    entry.project,
    'Vaquero-Environment',
    entry.environment,
    ...(place.artifact === null ? [] : ['Vaquero-Artifact', place.artifact.digest]),
    ...(entry.deploy === null ? [] : ['Vaquero-Deploy', String(entry.deploy)]),
    ...(entry.commit === null ? [] : ['Vaquero-Commit', entry.commit]),
    ...(isTop(place) ? [] : ['X-Robots-Tag', 'noindex']),
  ];
}

const noneSaid: ReadonlyMap<string, string> = new Map();

/** Sends an answer of the edge's own. */
function send(
  req: IncomingMessage,
  res: ServerResponse,
  status: number,
  head: Head,
  mediaType: string,
  text: string,
): Sent {
  const body = Buffer.from(text);
  const fields = ['Content-Type', mediaType, 'Content-Length', String(body.length)];
  res.writeHead(status, headList(head, fields));
  const isHead = req.method === 'HEAD';
  res.end(isHead ? undefined : body);
  return { bytes: isHead ? 0 : body.length, at: null };
}

const page = 'text/html; charset=utf-8';
const plain = 'text/plain; charset=utf-8';
