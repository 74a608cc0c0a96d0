/** One sequence that steers a terminal, whole or cut off, or one character that does. Source: ECMA-48, sections 5.3 to 5.6. */
const sequences =
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these characters are what is looked for.
  /(?:\x1b\[|\x9b)[0-?]*[ -/]*[@-~]?|(?:\x1b[\]PX^_]|[\x90\x98\x9d-\x9f])[^\x07\x1b\x9c\n]*(?:\x07|\x1b\\|\x9c)?|\x1b[ -/]*[0-~]?|[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]/g;

// biome-ignore lint/suspicious/noControlCharactersInRegex: colour codes begin with the escape character.
const colour = /^\x1b\[([0-9;:]*)m$/;

/**
 * A text of strangers as a terminal may have it: nothing in it moves the cursor, rings, hides, answers or changes what
 * was written before. Colours pass where `isColoured`, and end with their line. Lines that a carriage return would have
 * written over each other stand below each other.
 */
export function terminalText(text: string, isColoured: boolean): string {
  return text
    .replace(/\r+(?=\n|$)/g, '')
    .replace(/\r+/g, '\n')
    .split('\n')
    .map((line) => {
      let hasColour = false;
      const clean = line.replace(sequences, (found) => {
        if (!isColoured || !isColour(found)) return '';
        hasColour = true;
        return found;
      });
      return hasColour ? `${clean}\x1b[0m` : clean;
    })
    .join('\n');
}

/** Bold, dim, italic, underlined, reversed and their ends, and colours of the foreground and background. */
const simple = (code: number): boolean =>
  code <= 4 || code === 7 || (code >= 21 && code <= 27 && code !== 25) || isHue(code);
const isHue = (code: number): boolean =>
  (code >= 30 && code <= 49) || (code >= 90 && code <= 97) || (code >= 100 && code <= 107);

function isColour(sequence: string): boolean {
  const codes = colour.exec(sequence)?.[1]?.split(/[;:]/).map(Number);
  if (codes === undefined) return false;
  for (let at = 0; at < codes.length; at += 1) {
    const code = codes[at] ?? 0;
    if (!simple(code)) return false;
    // What follows 38 and 48 is a colour by number or by its parts.
    if (code === 38 || code === 48) at += codes[at + 1] === 5 ? 2 : 4;
  }
  return true;
}
