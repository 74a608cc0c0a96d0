import { clientFor, findService, sourceInWords } from './addressing.ts';
import { exitCodes } from './exit-codes.ts';
import { makeProgram } from './program.ts';
import { tellFault } from './tell-fault.ts';
import { processIo } from './terminal.ts';

const stop = new AbortController();
const io = processIo(stop);
let goesOn: string | null = null;
let wantsJson = process.argv.includes('--json');
let addressFrom: string | null = null;

process.on('SIGINT', () => {
  stop.abort();
  // A command that does not let go is left to itself.
  setTimeout(() => process.exit(exitCodes.interrupted.code), 500).unref();
});
// A reader that has enough, such as head, closes the pipe: that is no fault.
process.stdout.on('error', (error: NodeJS.ErrnoException) =>
  process.exit(error.code === 'EPIPE' ? exitCodes.done.code : exitCodes.fault.code),
);

const program = makeProgram(async (options, work) => {
  wantsJson = options.json === true;
  const found = await findService(options, process.env, process.cwd());
  addressFrom = found.addressFrom === 'default' ? null : sourceInWords(found.addressFrom, found);
  await work({
    io,
    client: clientFor(found.address, found.token, stop.signal),
    json: wantsJson,
    yes: options.yes === true,
    found,
    signal: stop.signal,
    goesOn: (what) => {
      goesOn = what;
    },
  });
});

try {
  await program.parseAsync(process.argv);
} catch (error) {
  process.exitCode = tellFault(io, error, {
    isInterrupted: stop.signal.aborted,
    goesOn,
    wantsJson,
    addressFrom,
  });
}
