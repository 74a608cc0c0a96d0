import { createInterface } from 'node:readline/promises';
import { Writable } from 'node:stream';
import { terminalText } from '@vaquero/core';
import { Misuse, NotDone } from './command.ts';
import type { Io } from './io.ts';
import { wrapped } from './wrapped.ts';

/** The terminal, or the pipe, that the client was started in; `stop` is what Ctrl-C at a question does. */
export function processIo(stop: AbortController): Io {
  const isTerminal = process.stdin.isTTY === true && process.stderr.isTTY === true;
  const wantsColour = (process.env.NO_COLOR ?? '') === '';
  const lines = (stream: NodeJS.WriteStream) => (text: string) => {
    // Much of what is said was written by strangers: none of it steers the terminal, and a pipe gets no colours.
    const clean = terminalText(text, stream.isTTY === true && wantsColour);
    const width = stream.isTTY === true ? stream.columns : Number.POSITIVE_INFINITY;
    stream.write(`${wrapped(clean, width)}\n`);
  };
  const isColoured = process.stdout.isTTY === true && wantsColour;
  return {
    out: lines(process.stdout),
    err: lines(process.stderr),
    write: (text) => void process.stdout.write(terminalText(text, isColoured)),
    isTerminal,
    isColoured,
    width: process.stdout.isTTY === true ? process.stdout.columns : Number.POSITIVE_INFINITY,
    ask: (question) => {
      if (!isTerminal)
        throw new Misuse('This asks, and nobody is there to answer: give it as an option.');
      return line(question, false, stop);
    },
    value: (question, isSecret) => line(isTerminal ? question : '', isSecret && isTerminal, stop),
    choose: (question, choices) =>
      prompted(isTerminal, stop, ({ select }, context) =>
        select(
          {
            message: question,
            choices: choices.map(({ value, says }) => ({ value, name: terminalText(says, false) })),
          },
          context,
        ),
      ),
    edit: (question, text, suffix) =>
      prompted(isTerminal, stop, ({ editor }, context) =>
        editor(
          { message: question, default: text, postfix: suffix, waitForUserInput: false },
          context,
        ),
      ),
    line: (question, { initially = '', isSecret = false, fault } = {}) =>
      prompted(isTerminal, stop, ({ input, password }, context) => {
        const validate = async (typed: string): Promise<true | string> =>
          (await fault?.(typed === '' ? initially : typed)) ?? true;
        return isSecret
          ? password({ message: question, validate }, context)
          : input({ message: question, validate, default: initially }, context);
      }),
  };
}

type Prompts = typeof import('@inquirer/prompts');

/** Asks with a prompt that goes by keys. Throws Misuse without a terminal, NotDone where it ends without an answer. */
async function prompted<Value>(
  isTerminal: boolean,
  stop: AbortController,
  ask: (
    prompts: Prompts,
    context: { readonly output: NodeJS.WriteStream; readonly signal: AbortSignal },
  ) => Promise<Value>,
): Promise<Value> {
  if (!isTerminal)
    throw new Misuse('This asks, and nobody is there to answer: give it as an option.');
  // Most commands ask nothing: they do not wait until this is read.
  const prompts = await import('@inquirer/prompts');
  const ended = new AbortController();
  // A prompt does not hear the end of what is typed: nobody would hear of it any more.
  const hear = (_text: unknown, key: { readonly ctrl?: boolean; readonly name?: string }): void => {
    if (key.ctrl === true && key.name === 'd') ended.abort();
  };
  process.stdin.on('keypress', hear);
  try {
    const signal = AbortSignal.any([stop.signal, ended.signal]);
    return await ask(prompts, { output: process.stderr, signal });
  } catch (error) {
    const name = error instanceof Error ? error.name : '';
    if (name !== 'ExitPromptError' && name !== 'AbortPromptError') throw error;
    if (name === 'ExitPromptError') stop.abort();
    throw new NotDone('Nothing was changed: no answer came.');
  } finally {
    process.stdin.off('keypress', hear);
  }
}

/** One line of what is typed or piped in. Throws NotDone where it ends without one. */
async function line(question: string, isUnseen: boolean, stop: AbortController): Promise<string> {
  const unseen = new Writable({ write: (_chunk, _encoding, done) => done() });
  const lines = createInterface({
    input: process.stdin,
    output: isUnseen ? unseen : process.stderr,
    terminal: process.stdin.isTTY === true,
  });
  // Only now does the terminal no longer show what is typed: whoever is asked before types in the open.
  if (isUnseen) process.stderr.write(question);
  lines.once('SIGINT', () => stop.abort());
  const ended = new Promise<never>((_resolve, reject) => {
    lines.once('close', () => reject(new NotDone('Nothing was changed: no answer came.')));
  });
  try {
    return await Promise.race([
      lines.question(isUnseen ? '' : question, { signal: stop.signal }),
      ended,
    ]);
  } finally {
    lines.close();
    if (process.stdin.isTTY === true && (isUnseen || stop.signal.aborted))
      process.stderr.write('\n');
  }
}
