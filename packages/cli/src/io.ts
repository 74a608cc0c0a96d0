/** One of a few that a person may take. */
export interface Choice<Value> {
  readonly value: Value;
  readonly says: string;
}

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
  /** One of a few, taken by keys. Throws Misuse without a terminal, NotDone where no answer comes. */
  readonly choose: <Value>(question: string, choices: readonly Choice<Value>[]) => Promise<Value>;
  /** A text, written otherwise in the editor of the person’s own. Throws as `choose` does. */
  readonly edit: (question: string, text: string, suffix: string) => Promise<string>;
  /** A line, or `initially` where nothing is typed; asked again while `fault` says what is wrong with it. Throws as `choose` does. */
  readonly line: (
    question: string,
    wishes?: {
      readonly initially?: string;
      readonly isSecret?: boolean;
      readonly fault?: (typed: string) => Promise<string | null>;
    },
  ) => Promise<string>;
}
