import { asSent, type Client } from '@vaquero/contracts';
import type { Io } from './output.ts';

/** What every command runs with. */
export interface Context {
  readonly io: Io;
  readonly client: Client;
  /** Print the reply of the service unchanged, for programs. */
  readonly json: boolean;
  /** Do not ask before changing an environment. */
  readonly yes: boolean;
  readonly sessionPath: string;
  readonly signal: AbortSignal;
}

/** A wrong use of the command line: said on stderr, exit code 2. */
export class Misuse extends Error {
  override readonly name = 'Misuse';
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

/** Exit code of a move that was committed but not confirmed by every edge. */
export const unconfirmed = 5;
/** Exit code of a build that was followed and failed. */
export const buildFailed = 6;

/** Writes a reply for programs, or calls `show` for people. */
export function give<Reply>(context: Context, reply: Reply, show: (reply: Reply) => void): void {
  if (context.json) context.io.out(JSON.stringify(asSent(reply), null, 2));
  else show(reply);
}

/** Asks before an environment is changed; without a terminal the answer must have been given by --yes. */
export async function confirmed(context: Context, question: string): Promise<boolean> {
  if (context.yes) return true;
  if (!context.io.isTerminal)
    throw new Misuse(
      'This asks first, and nobody is there to ask. Add --yes to say so beforehand.',
    );
  const answer = await context.io.ask(`${question} [y/N] `);
  return /^y(?:es)?$/i.test(answer.trim());
}
