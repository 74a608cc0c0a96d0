import { createInterface } from 'node:readline/promises';
import { Writable } from 'node:stream';
import { CallRefused, refusalCatalogue, ServiceUnreachable } from '@vaquero/contracts';
import { terminalText } from '@vaquero/core';
import { CommanderError } from 'commander';
import { type Context, EndedWith, Misuse } from './command.ts';
import type { Io } from './output.ts';
import { makeProgram } from './program.ts';
import { clientFor, readSession, sessionPath } from './session.ts';

const stop = new AbortController();
process.on('SIGINT', () => {
  stop.abort();
  setTimeout(() => process.exit(130), 200).unref();
});
// A reader that has enough, such as head, closes the pipe: that is no fault.
process.stdout.on('error', (error: NodeJS.ErrnoException) =>
  process.exit(error.code === 'EPIPE' ? 0 : 1),
);

const isTerminal = process.stdin.isTTY === true && process.stderr.isTTY === true;
const isColoured = process.stdout.isTTY === true && (process.env.NO_COLOR ?? '') === '';
const io: Io = {
  // Much of what is said was written by strangers: none of it steers the terminal, and a pipe gets no colours.
  out: (text) => void process.stdout.write(`${terminalText(text, isColoured)}\n`),
  err: (text) =>
    void process.stderr.write(
      `${terminalText(text, process.stderr.isTTY === true && isColoured)}\n`,
    ),
  isTerminal,
  isColoured,
  width: process.stdout.columns ?? 160,
  ask: (question) => ask(question, process.stderr),
  secret: async (question) => {
    process.stderr.write(question);
    const answer = await ask('', new Writable({ write: (_chunk, _encoding, done) => done() }));
    process.stderr.write('\n');
    return answer;
  },
};

async function ask(question: string, output: NodeJS.WritableStream): Promise<string> {
  const lines = createInterface({
    input: process.stdin,
    output,
    terminal: process.stdin.isTTY === true,
  });
  try {
    return await lines.question(question, { signal: stop.signal });
  } finally {
    lines.close();
  }
}

const program = makeProgram(async (options, act) => {
  const path = sessionPath(process.env);
  const session = await readSession(path);
  const address = options.address ?? session?.address ?? 'http://localhost:4600';
  const token = options.token ?? (session?.address === address ? session.token : undefined);
  const context: Context = {
    io,
    client: clientFor(address, token),
    json: options.json === true,
    yes: options.yes === true,
    sessionPath: path,
    signal: stop.signal,
  };
  await act(context);
});

try {
  await program.parseAsync(process.argv);
} catch (error) {
  process.exitCode = tell(error);
}

/** Says on stderr what happened, why and what to do next; returns the exit code. */
function tell(error: unknown): number {
  if (error instanceof EndedWith) return error.exitCode;
  if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
  if (stop.signal.aborted) return 130;
  if (error instanceof Misuse) {
    io.err(error.message);
    return 2;
  }
  if (error instanceof CallRefused) {
    const { problem } = error;
    const entry = refusalCatalogue[problem.code];
    io.err(
      `${entry.exit === 1 || entry.exit === 4 ? 'Failed' : 'Refused'}: ${problem.detail} (${problem.code})\nNext: ${problem.next}`,
    );
    return entry.exit;
  }
  if (error instanceof ServiceUnreachable) {
    io.err(
      `Vaquero cannot be reached at ${error.address}: ${error.message}\nNext: check that the service runs and that the address is right (--address, or VAQUERO_ADDRESS).`,
    );
    return 4;
  }
  io.err(`Failed: ${error instanceof Error ? error.message : String(error)}`);
  return 1;
}
