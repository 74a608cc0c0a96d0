/** A log line by its number, counted from 1. */
export interface LogLine {
  readonly number: number;
  readonly text: string;
}

const tellsAnError = /\berror\b|\bfailed\b|\bfatal\b|\bexception\b|cannot |not found|unexpected |no such file|denied|enoent|unknown /i;
const onlyRepeats = /^npm (?:err!|error)|^\s+at |exit (?:code|status)/i;
// biome-ignore lint/suspicious/noControlCharactersInRegex: colour codes begin with the escape character.
const colour = /\x1b\[[0-9;]*m/g;

/**
 * The first line of a failed step's log that names an error and is not a package manager's echo of it.
 * Undefined when no line does.
 */
export function tellingLine(lines: readonly LogLine[]): LogLine | undefined {
  const plain = lines.map((line) => ({ ...line, text: line.text.replace(colour, '') }));
  return (
    plain.find((line) => tellsAnError.test(line.text) && !onlyRepeats.test(line.text)) ??
    plain.find((line) => tellsAnError.test(line.text))
  );
}
