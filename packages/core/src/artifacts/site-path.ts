/** A file's path inside an artifact: segments joined by `/`, no leading slash. */
export type SitePath = string & { readonly brand: 'SitePath' };

/** Why a file name cannot be published, in words that end a sentence beginning with the name. */
export type PathFault =
  | 'is not valid UTF-8'
  | 'holds a control character'
  | 'holds a backslash'
  | 'has a segment that is empty, "." or ".."'
  | 'has a segment over 255 bytes'
  | 'is over 1,024 bytes'
  | 'lies in a .git folder';

/** Reads a path of a site's output, or says why it cannot be published. */
export function readSitePath(
  text: string,
): { readonly path: SitePath } | { readonly fault: PathFault } {
  const fault = faultOf(text);
  return fault === undefined ? { path: text as SitePath } : { fault };
}

function faultOf(text: string): PathFault | undefined {
  if (text.includes('\uFFFD')) return 'is not valid UTF-8';
  // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what is looked for.
  if (/[\x00-\x1f\x7f]/.test(text)) return 'holds a control character';
  if (text.includes('\\')) return 'holds a backslash';
  // A unit of a string is three bytes at most: most paths need no counting.
  const isShort = text.length * 3 <= 255;
  if (!isShort && utf8Length(text) > 1024) return 'is over 1,024 bytes';
  for (const segment of text.split('/')) {
    if (segment === '' || segment === '.' || segment === '..') {
      return 'has a segment that is empty, "." or ".."';
    }
    if (!isShort && utf8Length(segment) > 255) return 'has a segment over 255 bytes';
    if (segment.toLowerCase() === '.git') return 'lies in a .git folder';
  }
  return undefined;
}

function utf8Length(text: string): number {
  let bytes = 0;
  for (const letter of text) {
    const point = letter.codePointAt(0) ?? 0;
    bytes += point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x10000 ? 3 : 4;
  }
  return bytes;
}

/**
 * Orders paths by their UTF-8 bytes, which is the order of code points. UTF-16 units order the same way,
 * except that the halves of pairs (U+D800 to U+DFFF) stand for code points above all others.
 */
export function compareBytes(a: string, b: string): number {
  const length = Math.min(a.length, b.length);
  for (let at = 0; at < length; at += 1) {
    const left = a.charCodeAt(at);
    const right = b.charCodeAt(at);
    if (left !== right) return rank(left) - rank(right);
  }
  return a.length - b.length;
}

function rank(unit: number): number {
  if (unit < 0xd800) return unit;
  return unit < 0xe000 ? unit + 0x2000 : unit - 0x800;
}
