import { type ChildProcess, spawn } from 'node:child_process';
import type { Socket } from 'node:net';
import { OutsideFailure } from '../base/refused.ts';
import { gitEnvironment } from './git.ts';

/** A process that nobody asked for this long ends; one that owes an answer for this long is stuck. */
const patienceMs = 60_000;
/** Of each kind so many processes stay: those of the repositories that are busy, not of all there are. */
const mostOpen = 8;

/** One conversation with a Git process: questions go in, answers come back in their order. */
interface Talk<Answer> {
  /** `expects` is handed to the parser with the bytes of the answer. */
  readonly ask: (words: string, expects: string) => Promise<Answer>;
  readonly isOver: () => boolean;
  /** Ends the process once it has answered what it was asked. */
  readonly retire: () => void;
}

/**
 * Takes answers apart as their bytes come: `expected` is what the oldest open question expects, `settle` answers
 * it. Throws when the bytes are no answer.
 */
export type Parser<Answer> = (
  expected: () => string | undefined,
  settle: (answer: Answer) => void,
) => (chunk: Buffer) => void;

/** Asks Git about a repository: what is said, and what kind of answer that has. */
export type Asking<Answer> = (directory: string, words: string, expects: string) => Promise<Answer>;

/**
 * Git processes of one kind that stay while they are asked now and then, one for each repository asked lately:
 * a new process for each question costs 5 ms, of which the event loop stands still for half; a question to one
 * that is there costs 0.2. Its failures are OutsideFailure; the question after one begins a new process.
 */
export function staying<Answer>(
  command: readonly string[],
  parser: Parser<Answer>,
): Asking<Answer> {
  const talks = new Map<string, Talk<Answer>>();
  return (directory, words, expects) => {
    const known = talks.get(directory);
    const isOpen = known !== undefined && !known.isOver();
    const talk = isOpen
      ? known
      : openTalk(
          directory,
          command,
          parser,
          () => talks.get(directory) === talk && talks.delete(directory),
        );
    // What was asked last stands last: the first of the map is the one to end.
    talks.delete(directory);
    talks.set(directory, talk);
    for (const [place, oldest] of talks) {
      if (talks.size <= mostOpen) break;
      talks.delete(place);
      oldest.retire();
    }
    return talk.ask(words, expects);
  };
}

interface Question<Answer> {
  readonly expects: string;
  readonly resolve: (answer: Answer) => void;
  readonly reject: (error: Error) => void;
}

function openTalk<Answer>(
  directory: string,
  command: readonly string[],
  parser: Parser<Answer>,
  ended: () => void,
): Talk<Answer> {
  const child = spawn('git', command, {
    cwd: directory,
    env: gitEnvironment(),
    stdio: ['pipe', 'pipe', 'pipe'],
  });
  const { stdin, stdout, stderr } = child;
  const open: Question<Answer>[] = [];
  let over = false;
  let complaint = '';
  const end = (why: string): void => {
    over = true;
    clearTimeout(timer);
    ended();
    for (const { reject } of open.splice(0))
      reject(new OutsideFailure('git', `${command[0]}: ${why.slice(0, 500)}`));
    child.kill();
  };
  const timer = setTimeout(
    () => end(open.length > 0 ? 'timed out' : 'was not needed'),
    patienceMs,
  ).unref();
  const parse = parser(
    () => open[0]?.expects,
    (answer) => {
      open.shift()?.resolve(answer);
      if (open.length === 0) hold(child, false);
    },
  );
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
  return {
    ask: (words, expects) =>
      new Promise((resolve, reject) => {
        timer.refresh();
        if (open.length === 0) hold(child, true);
        open.push({ expects, resolve, reject });
        stdin.write(words);
      }),
    isOver: () => over,
    retire: () => stdin.end(),
  };
}

/** Whether a process and its pipes keep ours alive: only while an answer is awaited. */
function hold(child: ChildProcess, isAwaited: boolean): void {
  const all = [child, child.stdin as Socket, child.stdout as Socket, child.stderr as Socket];
  for (const one of all) {
    if (isAwaited) one.ref();
    else one.unref();
  }
}
