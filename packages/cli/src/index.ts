export { groups } from './commands.ts';
export { exitCodes } from './exit-codes.ts';
export { ownOptions, usageOf } from './manual.ts';
export { makeProgram } from './program.ts';
