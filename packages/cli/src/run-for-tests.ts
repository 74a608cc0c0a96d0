import type { Client } from '@vaquero/contracts';
import { type Context, Misuse } from './command.ts';
import { exitCodes } from './exit-codes.ts';
import type { Io } from './io.ts';
import { makeProgram } from './program.ts';
import { tellFault } from './tell-fault.ts';

/** What a command said, and its exit code. */
export interface Ran {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

/** Runs commands in this process, as they are typed, against the service that a client calls. */
export function runsAgainst(client: Client) {
  return (line: string, answers: Answers = {}): Promise<Ran> => runLine(client, line, answers);
}

/** A command line, the exit code it is to have, and what it is to say on either output. */
export type Expected = readonly [line: string, code: number, says: RegExp, answers?: Answers];

/** Runs command lines one after the other; throws for the first that does or says something else. */
export async function expectEach(client: Client, all: readonly Expected[]): Promise<void> {
  const run = runsAgainst(client);
  for (const [line, code, says, answers] of all) {
    const ran = await run(line, answers);
    if (ran.code !== code || !says.test(`${ran.out}${ran.err}`))
      throw new Error(
        `vaquero ${line}: ${ran.code}, not ${code} and ${says}\n${ran.out}${ran.err}`,
      );
  }
}

/** What stands at standard input, or is answered to questions; without any nobody is there. */
export interface Answers {
  readonly values?: readonly string[];
  readonly columns?: number;
  /** Where a sign-in is kept. */
  readonly signIn?: string;
}

async function runLine(client: Client, line: string, answers: Answers): Promise<Ran> {
  const said = { out: '', err: '' };
  const left = [...(answers.values ?? [])];
  const nobody = (): never => {
    throw new Misuse('Nobody is there to answer.');
  };
  const io: Io = {
    out: (text) => {
      said.out += `${text}\n`;
    },
    err: (text) => {
      said.err += `${text}\n`;
    },
    write: (text) => {
      said.out += text;
    },
    isTerminal: false,
    isColoured: false,
    width: answers.columns ?? Number.POSITIVE_INFINITY,
    ask: async () => left.shift() ?? nobody(),
    value: async () => left.shift() ?? nobody(),
    choose: async () => nobody(),
    edit: async () => nobody(),
    line: async () => left.shift() ?? nobody(),
  };
  const program = makeProgram((options, work) => {
    const context: Context = {
      io,
      client,
      json: options.json === true,
      yes: options.yes === true,
      found: {
        address: client.address,
        addressFrom: 'default',
        token: undefined,
        tokenFrom: null,
        workingCopy: null,
        signIn: answers.signIn ?? '',
      },
      signal: new AbortController().signal,
      goesOn: () => undefined,
    };
    return work(context);
  });
  for (const one of [program, ...program.commands])
    one.configureOutput({ writeErr: io.err, writeOut: io.write });
  const words = (line.match(/"[^"]*"|\S+/g) ?? []).map((word) => word.replace(/^"|"$/g, ''));
  try {
    await program.parseAsync(['node', 'vaquero', ...words]);
    return { code: exitCodes.done.code, ...said };
  } catch (error) {
    const circumstances = {
      isInterrupted: false,
      goesOn: null,
      wantsJson: false,
      addressFrom: null,
    };
    return { code: tellFault(io, error, circumstances), ...said };
  }
}
