export { makeProgram } from './program.ts';
