import {
  Command,
  InvalidArgumentError,
  Option,
  type OptionValues,
} from '@commander-js/extra-typings';
import { asSent, type Client } from '@vaquero/contracts';
import type { Command as AnyCommand } from 'commander';
import type { Found } from './addressing.ts';
import { exitCodes } from './exit-codes.ts';
import type { Io } from './io.ts';

/** What every command runs with. */
export interface Context {
  readonly io: Io;
  readonly client: Client;
  /** Print the reply of the service unchanged, for programs. */
  readonly json: boolean;
  /** Do not ask before changing an environment. */
  readonly yes: boolean;
  /** Where the address and the token came from. */
  readonly found: Found;
  readonly signal: AbortSignal;
  /** Notes what goes on by itself from here, should the person interrupt the command. */
  readonly goesOn: (what: string) => void;
}

/** A wrong use of the command line: said on stderr, exit code 2. */
export class Misuse extends Error {
  override readonly name = 'Misuse';
}

/** What was named is not there, or a question was answered with no: said on stderr, exit code 3. */
export class NotDone extends Error {
  override readonly name = 'NotDone';
}

/** Work that ended otherwise than asked for, already told: only the exit code is left to give. */
export class EndedWith extends Error {
  readonly exitCode: number;

  constructor(exitCode: number) {
    super(`exit ${exitCode}`);
    this.name = 'EndedWith';
    this.exitCode = exitCode;
  }
}

/** Options that every command has. */
export interface Everywhere {
  readonly address?: string | undefined;
  readonly token?: string | undefined;
  readonly json?: true | undefined;
  readonly yes?: true | undefined;
}

const everywhere = 'Options of every command:';

/** Adds what every command takes, behind its own. */
function withEverywhere<Args extends unknown[], Options extends OptionValues>(
  made: Command<Args, Options>,
): void {
  made
    .addOption(
      new Option('--address <url>', 'where the service is')
        .env('VAQUERO_ADDRESS')
        .helpGroup(everywhere),
    )
    .addOption(
      new Option('--token <secret>', 'a token instead of the kept sign-in')
        .env('VAQUERO_TOKEN')
        .hideHelp(),
    )
    .addOption(new Option('--json', 'the reply as JSON, for programs').helpGroup(everywhere))
    .addHelpOption(new Option('-h, --help', 'this help').helpGroup(everywhere));
}

/** A command: what it is called, what it takes, and what it does. */
export interface CommandParts<Args extends unknown[], Options extends OptionValues> {
  readonly name: string;
  /** What it does, in one line. */
  readonly says: string;
  /** How it is used, without the program's name. */
  readonly examples: readonly string[];
  readonly takes: (bare: Command) => Command<Args, Options>;
  readonly run: (context: Context, args: Args, options: Options) => Promise<void>;
}

/** Makes the context of a command once its options are known, and has it run. */
export type Perform = (
  options: Everywhere,
  work: (context: Context) => Promise<void>,
) => Promise<void>;

/** A command as the program takes it. */
export interface Declared {
  readonly name: string;
  readonly says: string;
  readonly examples: readonly string[];
  readonly declare: (perform: Perform) => AnyCommand;
}

/** Declares a command; its arguments and options are typed by what it takes. */
export function command<Args extends unknown[], Options extends OptionValues>(
  parts: CommandParts<Args, Options>,
): Declared & Pick<CommandParts<Args, Options>, 'run'> {
  const { name, says, examples, takes, run } = parts;
  return {
    name,
    says,
    examples,
    run,
    declare: (perform) => {
      const made = takes(new Command(name));
      withEverywhere(made);
      made
        .description(says)
        .addHelpText('after', examplesInWords(examples))
        .action(() =>
          perform(made.opts(), (context) => run(context, made.processedArgs, made.opts())),
        );
      return made as unknown as AnyCommand;
    },
  };
}

function examplesInWords(examples: readonly string[]): string {
  return `\n${examples.length === 1 ? 'Example' : 'Examples'}:\n${examples.map((one) => `  vaquero ${one}`).join('\n')}`;
}

/** Writes a reply for programs, or calls `show` for people. */
export function give<Reply>(context: Context, reply: Reply, show: (reply: Reply) => void): void {
  if (context.json) context.io.write(`${JSON.stringify(asSent(reply), null, 2)}\n`);
  else show(reply);
}

/** As `give` for what was looked for: nothing found is exit code 3. */
export function giveFound<Reply>(
  context: Context,
  reply: Reply,
  found: number,
  show: (reply: Reply) => void,
): void {
  give(context, reply, show);
  if (found === 0) throw new EndedWith(exitCodes.refused.code);
}

/** Asks before something is changed. Throws NotDone when the answer is no, Misuse when nobody is there to ask. */
export async function confirm(context: Context, question: string): Promise<void> {
  if (context.yes) return;
  if (!context.io.isTerminal)
    throw new Misuse(
      'This asks first, and nobody is there to ask. Add --yes to say so beforehand.',
    );
  const answer = await context.io.ask(`${question} [y/N] `);
  if (!/^y(?:es)?$/i.test(answer.trim())) throw new NotDone('Nothing was changed.');
}

/** A number from 1 on, as an argument. Throws InvalidArgumentError otherwise. */
export function whole(text: string): number {
  if (!/^[1-9]\d{0,8}$/.test(text))
    throw new InvalidArgumentError(`"${text}" is not a number from 1 on.`);
  return Number(text);
}

/** Gathers what an option said each time it was given. */
export function collect(value: string, earlier: readonly string[]): readonly string[] {
  return [...earlier, value];
}
