import { PassThrough, Transform } from 'node:stream';

/** A packet of Git's protocol: its length in four hexadecimal digits, then its bytes. Source: gitprotocol-common(5), pkt-line. */
export function packet(bytes: Buffer | string): Buffer {
  const content = Buffer.from(bytes);
  return Buffer.concat([Buffer.from((content.length + 4).toString(16).padStart(4, '0')), content]);
}

/** A line for the person who pushes, on the second side band. Source: gitprotocol-pack(5), "Packfile Data". */
export function toPusher(line: string): Buffer {
  // A packet holds 65,515 bytes at most with its band; a log's line is cut well before.
  return packet(Buffer.concat([Buffer.from([2]), Buffer.from(`${line.slice(0, 4000)}\n`)]));
}

const flush = '0000';

/**
 * Holds back the flush packet that ends an answer, so that more can be said before it. `ended` is called
 * when all else has been passed on; what it returns is whether there was such a packet.
 */
export function withoutLastFlush(): Transform & { readonly hadFlush: () => boolean } {
  let tail = Buffer.alloc(0);
  let isFlush = false;
  const transform = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      const whole = Buffer.concat([tail, chunk]);
      const keep = Math.min(flush.length, whole.length);
      tail = whole.subarray(whole.length - keep);
      done(null, whole.subarray(0, whole.length - keep));
    },
    flush(done) {
      isFlush = tail.toString('latin1') === flush;
      done(null, isFlush ? undefined : tail);
    },
  });
  return Object.assign(transform, { hadFlush: () => isFlush });
}

/** What a push says of itself before its pack: whether it listens on a side band, and its options. */
export interface PushWords {
  readonly hasSideBand: boolean;
  readonly options: readonly string[];
  /** What it asks for, ref by ref; null when that cannot be told whole. */
  readonly refs: readonly PushedRef[] | null;
}

/** One ref of a push, and the object that it is to stand for. */
export interface PushedRef {
  readonly name: string;
  readonly to: string;
}

/** What can be told of the beginning of a push: `refs` once all commands are there. */
export interface PushHead extends PushWords {
  /** What came is no list of commands: a signed or a shallow push, or no push at all. */
  readonly isOdd: boolean;
}

const longestHead = 256 << 10;

/**
 * Listens to a push on its way to Git. Source: gitprotocol-pack(5), "Reference Update Request": commands with
 * capabilities behind the first NUL, a flush packet, then, if agreed on, options and a flush packet.
 */
export function listenToPush(): { readonly stream: PassThrough; readonly words: () => PushWords } {
  const stream = new PassThrough();
  let head = Buffer.alloc(0);
  stream.on('data', (chunk: Buffer) => {
    if (head.length < longestHead) head = Buffer.concat([head, chunk]);
  });
  return {
    stream,
    words: () => {
      const { hasSideBand, options, refs } = readPush(head);
      return { hasSideBand, options, refs };
    },
  };
}

/** Reads as much of a push as has come. */
export function readPush(head: Buffer): PushHead {
  const sections: string[][] = [[]];
  let isOdd = false;
  for (let at = 0; at + 4 <= head.length && sections.length < 3; ) {
    const digits = head.toString('latin1', at, at + 4);
    const length = Number.parseInt(digits, 16);
    isOdd = !/^[0-9a-f]{4}$/i.test(digits) || (length > 0 && length < 4);
    if (isOdd || at + length > head.length) break;
    if (length === 0) sections.push([]);
    else sections.at(-1)?.push(head.toString('utf8', at + 4, at + length));
    at += Math.max(4, length);
  }
  const [commands = [], options = []] = sections;
  const capabilities = (commands[0] ?? '').split('\0')[1]?.split(' ') ?? [];
  const refs = readCommands(commands);
  return {
    hasSideBand: capabilities.includes('side-band-64k'),
    options: capabilities.includes('push-options')
      ? options.map((option) => option.replace(/\n$/, ''))
      : [],
    refs: sections.length > 1 ? refs : null,
    isOdd: isOdd || refs === null,
  };
}

/** Commands of a push: old object, new object, ref. Null when a line is none, as of a shallow or a signed push. */
function readCommands(lines: readonly string[]): readonly PushedRef[] | null {
  const refs = lines.map((line) => {
    const [, to, name] = /^[0-9a-f]+ ([0-9a-f]+) ([^\0\n]+)/.exec(line) ?? [];
    return to === undefined || name === undefined ? null : { name, to };
  });
  return refs.every((one) => one !== null) ? refs : null;
}
