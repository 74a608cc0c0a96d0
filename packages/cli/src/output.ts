import { styleText } from 'node:util';
import { brandOf, type Digest } from '@vaquero/core';
import Table from 'cli-table3';
import type { Io } from './io.ts';
import { plain, wrapped } from './wrapped.ts';

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

/** The narrowest that a column gets which gives way. */
const narrowest = 18;

/**
 * A table without frames. On a terminal one column gives way and is wrapped by words; where even that does not
 * fit, each row stands as lines of its own, a name before each value. In a pipe every value is whole.
 */
export function table(
  io: Io,
  head: readonly string[],
  rows: readonly (readonly string[])[],
  giving: number,
): string {
  const widths = head.map((title, column) =>
    Math.max(title.length, ...rows.map((row) => plain(row[column] ?? '').length)),
  );
  const over = widths.reduce((sum, width) => sum + width + 2, -2) - io.width;
  if (over <= 0) return drawn(io, head, rows, widths);
  const room = (widths[giving] ?? 0) - over;
  const longestWord = Math.max(
    ...rows.flatMap((row) => plain(row[giving] ?? '').split(' ')).map((word) => word.length),
  );
  if (room < Math.max(narrowest, longestWord)) return stacked(io, head, rows);
  return drawn(io, head, rows, widths.with(giving, room));
}

/** Rows as lines of their own: the first value leads, what is empty is left out. */
function stacked(io: Io, head: readonly string[], rows: readonly (readonly string[])[]): string {
  const width = Math.max(...head.map((title) => title.length));
  return rows
    .map((row) =>
      row
        .flatMap((cell, column) =>
          plain(cell) === ''
            ? []
            : [
                `${column === 0 ? '' : '  '}${tone(io, 'quiet', (head[column] ?? '').padEnd(width + (column === 0 ? 2 : 0)))}  ${cell}`,
              ],
        )
        .map((line) => wrapped(line, io.width))
        .join('\n'),
    )
    .join('\n');
}

function drawn(
  io: Io,
  head: readonly string[],
  rows: readonly (readonly string[])[],
  widths: readonly number[],
): string {
  const made = new Table({
    head: head.map((title) => tone(io, 'quiet', title)),
    chars: noFrame,
    style: { head: [], border: [], 'padding-left': 0, 'padding-right': 0 },
    colWidths: [...widths],
    wordWrap: true,
  });
  made.push(...rows.map((row) => [...row]));
  return made
    .toString()
    .split('\n')
    .map((line) => line.trimEnd())
    .join('\n');
}

const noFrame = {
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
};

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
