import { CallRefused, refusalCatalogue, ServiceUnreachable } from '@vaquero/contracts';
import { CommanderError } from 'commander';
import { EndedWith, Misuse, NotDone } from './command.ts';
import { exitCodes } from './exit-codes.ts';
import type { Io } from './io.ts';

/** What is known when a command ends otherwise than asked for. */
export interface Circumstances {
  readonly isInterrupted: boolean;
  /** What goes on by itself; null while nothing was begun. */
  readonly goesOn: string | null;
  readonly wantsJson: boolean;
  /** Where the address was found, in words; null where it was the usual one. */
  readonly addressFrom: string | null;
}

/** Says what happened, why and what to do next, for programs as problem details (RFC 9457); returns the exit code. */
export function tellFault(io: Io, error: unknown, circumstances: Circumstances): number {
  const { isInterrupted, goesOn, wantsJson, addressFrom } = circumstances;
  if (error instanceof EndedWith) return error.exitCode;
  // The parser has told of it already.
  if (error instanceof CommanderError)
    return error.exitCode === 0 ? exitCodes.done.code : exitCodes.misuse.code;
  if (isInterrupted) {
    io.err(`Interrupted. ${goesOn ?? 'Nothing was changed.'}`);
    return exitCodes.interrupted.code;
  }
  const { said, exit, problem } = faultOf(error, addressFrom);
  if (wantsJson) io.write(`${JSON.stringify(problem, null, 2)}\n`);
  else io.err(said);
  return exit;
}

interface Fault {
  readonly said: string;
  readonly exit: number;
  readonly problem: object;
}

function faultOf(error: unknown, addressFrom: string | null): Fault {
  if (error instanceof CallRefused) {
    const { problem } = error;
    const { exit } = refusalCatalogue[problem.code];
    const word = exit === 1 || exit === 4 ? 'Failed' : 'Refused';
    return {
      said: `${word}: ${problem.detail} (${problem.code})\nNext: ${problem.next}`,
      exit,
      problem,
    };
  }
  if (error instanceof ServiceUnreachable) {
    const from = addressFrom === null ? '' : ` (from ${addressFrom})`;
    const detail = `Vaquero cannot be reached at ${error.address}${from}: ${error.message}`;
    const next =
      'check that the service runs and that the address is right (--address, or VAQUERO_ADDRESS).';
    return ownFault(
      `${detail}\nNext: ${next}`,
      exitCodes.unreached.code,
      'not-reached',
      detail,
      next,
    );
  }
  const message = error instanceof Error ? error.message : String(error);
  if (error instanceof Misuse) return ownFault(message, exitCodes.misuse.code, 'misuse', message);
  if (error instanceof NotDone)
    return ownFault(message, exitCodes.refused.code, 'not-done', message);
  return ownFault(`Failed: ${message}`, exitCodes.fault.code, 'failed', message);
}

/** What the client found by itself, in the form in which the service refuses. */
function ownFault(said: string, exit: number, code: string, detail: string, next?: string): Fault {
  return { said, exit, problem: { code, detail, ...(next === undefined ? {} : { next }) } };
}
