import { styleText } from 'node:util';
import { brandOf, type Digest } from '@vaquero/core';
import Table from 'cli-table3';

/** Where a command writes: results to `out`, the rest to `err`. */
export interface Io {
  readonly out: (text: string) => void;
  readonly err: (text: string) => void;
  readonly isTerminal: boolean;
  readonly isColoured: boolean;
  readonly width: number;
  readonly ask: (question: string) => Promise<string>;
  readonly secret: (question: string) => Promise<string>;
}

type Tone = 'good' | 'warn' | 'bad' | 'quiet' | 'strong' | 'thread';
const styles = {
  good: 'green',
  warn: 'yellow',
  bad: 'red',
  quiet: 'dim',
  strong: 'bold',
  thread: 'cyan',
} as const;

/** Colours a word, if colour goes where it is written. */
export function tone(io: Io, kind: Tone, text: string): string {
  return io.isColoured ? styleText(styles[kind], text) : text;
}

/** A table without frames whose last column but one gives way, so that rows fit the terminal. */
export function table(
  io: Io,
  head: readonly string[],
  rows: readonly (readonly string[])[],
  giving: number,
): string {
  const widths = head.map((title, column) =>
    Math.max(title.length, ...rows.map((row) => plainLength(row[column] ?? ''))),
  );
  const over = widths.reduce((sum, width) => sum + width + 2, 0) - io.width;
  const room = Math.max(12, (widths[giving] ?? 0) - Math.max(0, over));
  const fitted = rows.map((row) =>
    row.map((cell, column) => (column === giving ? shorten(cell, room) : cell)),
  );
  const made = new Table({
    head: head.map((title) => tone(io, 'quiet', title)),
    chars: {
      top: '',
      'top-mid': '',
      'top-left': '',
      'top-right': '',
      bottom: '',
      'bottom-mid': '',
      'bottom-left': '',
      'bottom-right': '',
      left: '',
      'left-mid': '',
      mid: '',
      'mid-mid': '',
      right: '',
      'right-mid': '',
      middle: '  ',
    },
    style: { head: [], border: [], 'padding-left': 0, 'padding-right': 0 },
  });
  made.push(...fitted.map((row) => [...row]));
  return made
    .toString()
    .split('\n')
    .map((line) => line.trimEnd())
    .join('\n');
}

// biome-ignore lint/suspicious/noControlCharactersInRegex: colour codes begin with the escape character.
const colours = /\x1b\[[0-9;]*m/g;

function plainLength(text: string): number {
  return text.replace(colours, '').length;
}

function shorten(text: string, room: number): string {
  return plainLength(text) <= room ? text : `${text.slice(0, room - 1).trimEnd()}…`;
}

/** Control characters that came from a commit or a log must not steer the terminal. */
export function safe(text: string): string {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is taken out.
  return text.replace(/[\x00-\x1f\x7f-\x9f]/g, ' ');
}

/** An instant as ISO date and minute, UTC. */
export function when(at: number): string {
  return `${new Date(at).toISOString().slice(0, 16).replace('T', ' ')}Z`;
}

/** A stretch of time as people say it. */
export function lasting(ms: number): string {
  if (ms < 1000) return `${Math.round(ms)} ms`;
  if (ms < 60_000) return `${(ms / 1000).toFixed(1)} s`;
  if (ms < 600_000) {
    const seconds = Math.round(ms / 1000);
    return `${Math.floor(seconds / 60)} min ${seconds % 60} s`;
  }
  const minutes = Math.round(ms / 60_000);
  if (minutes < 120) return `${minutes} min`;
  const hours = Math.floor(minutes / 60);
  return hours < 48
    ? `${hours} h ${minutes % 60} min`
    : `${Math.floor(hours / 24)} d ${hours % 24} h`;
}

/** An artifact as it is said: the first digits of its digest and its brand. */
export function spoken(digest: Digest): string {
  return `${digest.slice(0, 8)} ${brandOf(digest).name}`;
}

/** Bytes as people say them. */
export function bytes(count: number): string {
  if (count < 1024) return `${count} B`;
  return count < 1 << 20
    ? `${(count / 1024).toFixed(1)} KiB`
    : `${(count / (1 << 20)).toFixed(1)} MiB`;
}
