/** Where a command writes: results to standard output, the rest to standard error. */
export interface Io {
  /** Lines for people on standard output; a terminal has them wrapped by words. */
  readonly out: (text: string) => void;
  /** Lines for people on standard error. */
  readonly err: (text: string) => void;
  /** Text on standard output as it is: logs, JSON. Nothing in it steers a terminal. */
  readonly write: (text: string) => void;
  /** Is somebody there to be asked? */
  readonly isTerminal: boolean;
  readonly isColoured: boolean;
  /** Columns of standard output; Infinity where it is no terminal. */
  readonly width: number;
  /** Asks a person. Throws Misuse without a terminal. */
  readonly ask: (question: string) => Promise<string>;
  /** A value that is asked for, or one line of standard input: unseen while it is typed, if it is a secret. */
  readonly value: (question: string, isSecret: boolean) => Promise<string>;
}
