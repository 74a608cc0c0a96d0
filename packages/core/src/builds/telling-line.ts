import { causeOf } from './cause-rules.ts';

/** A log line by its number, counted from 1. */
export interface LogLine {
  readonly number: number;
  readonly text: string;
}

/** What a line has to say it says at its beginning; some of the rules take the square of its length. */
const longestTold = 1000;

/** Lines that name an error by themselves, most telling first; what compilers, runtimes and tools print at the start of it. */
const rules = [
  /^\s*(?:uncaught )?(?:[\w.]*(?:Error|Exception))(?: \[\w+\])?: \S/,
  /^\s*(?:\S+:\d+(?::\d+)?:? ?-? )(?:fatal )?error\b/i,
  /^\s*(?:error|fatal)(?:\[\w+\]|\s+TS\d+)?:? \S/i,
  /\berror\b|\bfailed\b|\bfatal\b|\bexception\b|cannot |not found|no such file|permission denied|unknown /i,
];
/** What only says that something failed, or how long that took: the place and the reason stand elsewhere. */
const onlyRepeats =
  /^npm (?:err!|error)|^\s+at |exit (?:code|status)|^step \S+ ended after|build failed (?:in [\d.]+ ?m?s|with \d+ errors?)|^error during build:?$|^\s*[✖✗×x]\s*build failed|^> |^info |ELIFECYCLE|Command failed(?: with|:)|^error Command failed/i;
/** A line of source code, as runtimes show it above the message, names errors without being one. */
const isSource =
  /^\s*(?:if|throw|return|const|let|var|import|export|function|raise|assert)\b|[;{]\s*$/;
// biome-ignore lint/suspicious/noControlCharactersInRegex: colour codes begin with the escape character.
const colour = /\x1b\[[0-9;]*m/g;

/**
 * The first line of a failed step's log that names a known cause, or else an error, by the most telling rule;
 * lines of source code and a package manager's echoes are passed over. Undefined when no line does.
 */
export function tellingLine(lines: readonly LogLine[]): LogLine | undefined {
  const plain = lines.map((line) => ({
    ...line,
    text: line.text.slice(0, longestTold).replace(colour, ''),
  }));
  // A package manager’s echo may be the only line that names the cause, so it is asked for that too.
  const known = plain.find((line) => !isSource.test(line.text) && causeOf(line.text) !== null);
  if (known !== undefined) return known;
  const own = plain.filter((line) => !onlyRepeats.test(line.text) && !isSource.test(line.text));
  for (const rule of rules) {
    const line = own.find((each) => rule.test(each.text));
    if (line !== undefined) return line;
  }
  return plain.find((line) => onlyRepeats.test(line.text));
}
