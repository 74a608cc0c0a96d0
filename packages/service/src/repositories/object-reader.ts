import { type Parser, staying } from './git-talk.ts';

/** What Git knows of an object by its name, before its contents are read. */
export interface ObjectInfo {
  readonly id: string;
  readonly kind: string;
  readonly sizeBytes: number;
}

/** Reads the objects of one repository. */
export interface ObjectReader {
  /** What a name stands for, null when there is no such object. Names: gitrevisions(7). */
  readonly info: (name: string) => Promise<ObjectInfo | null>;
  /** The contents of an object, null when there is none of that name or it is larger than `limitBytes`. */
  readonly contents: (name: string, limitBytes: number) => Promise<Buffer | null>;
}

/** The answer to a question; null when there is no such object. */
type Answer = { readonly info: ObjectInfo; readonly bytes: Buffer | null } | null;

const ask = staying<Answer>(['cat-file', '--batch-command', '-z'], makeParser);

/** The reader of a repository. Its failures are OutsideFailure. */
export function objectsOf(directory: string): ObjectReader {
  const say = (verb: string, name: string): Promise<Answer> =>
    ask(directory, `${verb} ${name}\0`, verb);
  const info = async (name: string): Promise<ObjectInfo | null> =>
    /[\0\n]/.test(name) ? null : ((await say('info', name))?.info ?? null);
  return {
    info,
    contents: async (name, limitBytes) => {
      const found = await info(name);
      if (found === null || found.sizeBytes > limitBytes) return null;
      return (await say('contents', found.id))?.bytes ?? null;
    },
  };
}

/** Takes the output apart as git-cat-file(1) describes it under BATCH OUTPUT; throws when it is not that. */
function makeParser(...[expected, settle]: Parameters<Parser<Answer>>): (chunk: Buffer) => void {
  let held = Buffer.alloc(0);
  let chunks: Buffer[] = [];
  /** Bytes that must have come before it is worth a look: the rest of contents whose size is known. */
  let missing = 0;
  const next = (): boolean => {
    const end = held.indexOf(10);
    if (end < 0) return false;
    const info = readHeader(held.toString('utf8', 0, end));
    const hasContents = info !== null && expected() === 'contents';
    const length = end + 1 + (hasContents ? info.sizeBytes + 1 : 0);
    missing = length - held.length;
    if (missing > 0) return false;
    const bytes = hasContents ? held.subarray(end + 1, length - 1) : null;
    held = held.subarray(length);
    settle(info && { info, bytes });
    return true;
  };
  return (chunk) => {
    chunks.push(chunk);
    missing -= chunk.length;
    if (missing > 0) return;
    held = Buffer.concat([held, ...chunks]);
    chunks = [];
    while (next());
  };
}

/** The line before an object's contents; null for one that says that there is none. */
function readHeader(line: string): ObjectInfo | null {
  const [, id, kind = '', size] = /^([0-9a-f]{40,64}) (\w+) (\d+)$/.exec(line) ?? [];
  if (id !== undefined) return { id, kind, sizeBytes: Number(size) };
  if (/ (?:missing|ambiguous)$/.test(line)) return null;
  throw new Error(`said ${line}`);
}
