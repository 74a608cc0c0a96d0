import wrapAnsi from 'wrap-ansi';

/** A label in front of what is said of it, such as `commit     4be1c02e`. */
const label = /^ *\S+(?: \S+)? {2,}(?=\S)/;

/**
 * Lines wrapped by words to a width. What follows a label stays beside it; a word that is longer than the
 * width, such as an address, is left whole.
 */
export function wrapped(text: string, width: number): string {
  if (!Number.isFinite(width)) return text;
  return text
    .split('\n')
    .map((line) => wrappedLine(line, width))
    .join('\n');
}

function wrappedLine(line: string, width: number): string {
  if (plain(line).length <= width) return line;
  const indent = Math.min(indentOf(plain(line)), Math.floor(width / 2));
  const [first = '', ...rest] = wrapAnsi(line, width, { trim: false }).split('\n');
  const left = rest.join('').trimStart();
  if (left === '') return first.trimEnd();
  const further = wrapAnsi(left, Math.max(16, width - indent), { trim: true });
  return [first.trimEnd(), ...further.split('\n').map((one) => ' '.repeat(indent) + one)].join(
    '\n',
  );
}

function indentOf(line: string): number {
  return label.exec(line)?.[0].length ?? /^ */.exec(line)?.[0].length ?? 0;
}

// biome-ignore lint/suspicious/noControlCharactersInRegex: colour codes begin with the escape character.
const colours = /\x1b\[[0-9;]*m/g;

/** A text without its colours: what it takes on a screen. */
export function plain(text: string): string {
  return text.replace(colours, '');
}
