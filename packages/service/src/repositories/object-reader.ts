import { type ChildProcess, spawn } from 'node:child_process';
import type { Socket } from 'node:net';
import { OutsideFailure } from '../refused.ts';
import { gitEnvironment } from './git.ts';

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

/** A process that nobody asked for this long ends; one that owes an answer for this long is stuck. */
const patienceMs = 60_000;
/** Of so many repositories a process stays. */
const mostReaders = 24;

const readers = new Map<string, Talk>();

/**
 * The reader of a repository: a Git process that stays while it is asked now and then. A new process for each
 * question costs 5 ms, of which the event loop stands still for half; a question to this one costs 0.2.
 * Its failures are OutsideFailure; the question after one begins a new process.
 */
export function objectsOf(directory: string): ObjectReader {
  const talk = (): Talk => {
    const known = readers.get(directory);
    const open = known === undefined || known.isOver() ? openTalk(directory) : known;
    // What was asked last stands last: the first of the map is the one to end.
    readers.delete(directory);
    readers.set(directory, open);
    for (const [place, oldest] of readers) {
      if (readers.size <= mostReaders) break;
      readers.delete(place);
      oldest.retire();
    }
    return open;
  };
  const info = async (name: string): Promise<ObjectInfo | null> =>
    /[\0\n]/.test(name) ? null : ((await talk().ask('info', name))?.info ?? null);
  return {
    info,
    contents: async (name, limitBytes) => {
      const found = await info(name);
      if (found === null || found.sizeBytes > limitBytes) return null;
      return (await talk().ask('contents', found.id))?.bytes ?? null;
    },
  };
}

interface Answer {
  readonly info: ObjectInfo;
  readonly bytes: Buffer | null;
}

interface Question {
  readonly verb: 'info' | 'contents';
  readonly resolve: (answer: Answer | null) => void;
  readonly reject: (error: Error) => void;
}

interface Talk {
  readonly ask: (verb: Question['verb'], name: string) => Promise<Answer | null>;
  readonly isOver: () => boolean;
  /** Ends the process once it has answered what it was asked. */
  readonly retire: () => void;
}

/** Opens one process and asks it in turn; the answers come in the order of the questions. */
function openTalk(directory: string): Talk {
  const child = spawn('git', ['cat-file', '--batch-command', '-z'], {
    cwd: directory,
    env: gitEnvironment(),
    stdio: ['pipe', 'pipe', 'pipe'],
  });
  const { stdin, stdout, stderr } = child;
  const open: Question[] = [];
  let over = false;
  let complaint = '';
  const end = (why: string): void => {
    over = true;
    clearTimeout(timer);
    if (readers.get(directory) === talk) readers.delete(directory);
    for (const { reject } of open.splice(0))
      reject(new OutsideFailure('git', `cat-file: ${why.slice(0, 500)}`));
    child.kill();
  };
  const timer = setTimeout(
    () => end(open.length > 0 ? 'timed out' : 'was not needed'),
    patienceMs,
  ).unref();
  const parse = makeParser(() => open[0]?.verb, settle);
  function settle(answer: Answer | null): void {
    open.shift()?.resolve(answer);
    if (open.length === 0) hold(child, false);
  }
  stdout.on('data', (chunk: Buffer) => {
    timer.refresh();
    try {
      parse(chunk);
    } catch (error) {
      end(error instanceof Error ? error.message : String(error));
    }
  });
  stderr.on('data', (chunk: Buffer) => {
    complaint = (complaint + chunk.toString()).slice(-500);
  });
  stdin.on('error', () => undefined); // Its end is heard of below, with what it said.
  child.once('error', (error) => end(error.message));
  child.once('close', () => end(complaint.trim() || 'ended'));
  hold(child, false);
  const talk: Talk = {
    ask: (verb, name) =>
      new Promise((resolve, reject) => {
        timer.refresh();
        if (open.length === 0) hold(child, true);
        open.push({ verb, resolve, reject });
        stdin.write(`${verb} ${name}\0`);
      }),
    isOver: () => over,
    retire: () => stdin.end(),
  };
  return talk;
}

/** Whether a process and its pipes keep ours alive: only while an answer is awaited. */
function hold(child: ChildProcess, isAwaited: boolean): void {
  const all = [child, child.stdin as Socket, child.stdout as Socket, child.stderr as Socket];
  for (const one of all) {
    if (isAwaited) one.ref();
    else one.unref();
  }
}

/** Takes the output apart as git-cat-file(1) describes it under BATCH OUTPUT; throws when it is not that. */
function makeParser(
  verb: () => Question['verb'] | undefined,
  settle: (answer: Answer | null) => void,
): (chunk: Buffer) => void {
  let held = Buffer.alloc(0);
  let chunks: Buffer[] = [];
  /** Bytes that must have come before it is worth a look: the rest of contents whose size is known. */
  let missing = 0;
  const next = (): boolean => {
    const end = held.indexOf(10);
    if (end < 0) return false;
    const info = readHeader(held.toString('utf8', 0, end));
    const hasContents = info !== null && verb() === 'contents';
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
