import type { Command } from 'commander';
import type { Context } from './command.ts';

/** Declares a command, with the options that every command has. */
export type Add = (name: string, description: string) => Command;

/** Makes what a command does of its work. */
export type Act = <Args extends readonly unknown[]>(
  work: (context: Context, ...args: Args) => Promise<void>,
) => (...all: readonly unknown[]) => Promise<void>;
