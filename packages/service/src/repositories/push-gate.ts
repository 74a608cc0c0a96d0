import { Readable } from 'node:stream';
import { pushedRefFault } from '@vaquero/core';
import { type PushedRef, packet, readPush } from './side-band.ts';

/** Forty thousand refs; more are no push. */
const mostHeadBytes = 4 << 20;

/** A push whose commands have been read: what to hand to Git, or what to answer instead. */
export type Gated =
  | { readonly ok: true; readonly body: Readable }
  | { readonly ok: false; readonly answer: Buffer };

/**
 * Reads the commands of a push before Git does, and lets it pass only when every ref in it may be pushed. What is
 * refused is answered as Git itself would, ref by ref with the reason; nothing of the pack is read then.
 * Source: gitprotocol-pack(5), "Report Status".
 */
export async function gatePush(body: Readable): Promise<Gated> {
  const chunks = body[Symbol.asyncIterator]() as AsyncIterator<Buffer>;
  let head = Buffer.alloc(0);
  let commands = readPush(head);
  for (;;) {
    const next = await chunks.next();
    if (next.done === true) break;
    head = Buffer.concat([head, next.value]);
    if (head.length > mostHeadBytes) break;
    commands = readPush(head);
    if (commands.refs !== null || commands.isOdd) break;
  }
  const whole = Readable.from(
    (async function* () {
      yield head;
      for (let next = await chunks.next(); next.done !== true; next = await chunks.next())
        yield next.value;
    })(),
    { objectMode: false },
  );
  // A push of nothing at all is Git's to answer.
  if (head.length === 0 || head.equals(Buffer.from('0000'))) return { ok: true, body: whole };
  const { refs, hasSideBand } = commands;
  const refused = refs === null ? null : refs.flatMap((ref) => faultOf(ref));
  if (refused?.length === 0) return { ok: true, body: whole };
  body.resume();
  return { ok: false, answer: answerOf(refs ?? [], refused, hasSideBand) };
}

interface RefFault {
  readonly name: string;
  readonly why: string;
}

function faultOf({ name, to }: PushedRef): readonly RefFault[] {
  // What is there already may go, whatever it is called, as long as it is a branch or a tag.
  const isDeletion = /^0+$/.test(to) && /^refs\/(?:heads|tags)\//.test(name);
  const why = isDeletion ? null : pushedRefFault(name);
  return why === null ? [] : [{ name, why }];
}

/** Every ref has an answer: the client would take the push for cut off otherwise. */
function answerOf(
  refs: readonly PushedRef[],
  refused: readonly RefFault[] | null,
  hasSideBand: boolean,
): Buffer {
  const named = new Map((refused ?? []).map(({ name, why }) => [name, why]));
  const lines = refs.map(
    ({ name }) => `ng ${name} ${named.get(name) ?? 'another ref of this push is refused'}\n`,
  );
  const unpack =
    refused === null ? 'unpack commands that are not understood here\n' : 'unpack ok\n';
  const report = Buffer.concat([...[unpack, ...lines].map(packet), Buffer.from('0000')]);
  if (!hasSideBand) return report;
  const pieces: Buffer[] = [];
  for (let at = 0; at < report.length; at += 60_000)
    pieces.push(packet(Buffer.concat([Buffer.from([1]), report.subarray(at, at + 60_000)])));
  return Buffer.concat([...pieces, Buffer.from('0000')]);
}
