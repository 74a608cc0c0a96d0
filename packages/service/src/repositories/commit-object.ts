/** What a commit object says of itself. */
export interface CommitFields {
  /** The first paragraph of the message, in one line of at most 300 characters. */
  readonly subject: string;
  /** The author's name, at most 100 characters. */
  readonly author: string;
  /** Their mail address in small letters; null where it is none that mail could go to. */
  readonly authorMail: string | null;
  /** When it was committed, in ms since 1970. */
  readonly at: number;
  /** The name of its whole tree. */
  readonly tree: string;
}

/**
 * Reads a commit object as Git stores it: lines of a word and its value, an empty line, the message. Further
 * lines of one value (a signature) begin with a space. Source: gitformat-signature(5), git-commit(1) under DISCUSSION.
 */
export function readCommit(bytes: Buffer): CommitFields {
  const gap = bytes.indexOf('\n\n');
  const head = gap < 0 ? bytes : bytes.subarray(0, gap);
  const field = (text: string, word: string): string =>
    new RegExp(`^${word} (.*)$`, 'm').exec(text)?.[1] ?? '';
  const encoding = field(head.toString('latin1'), 'encoding');
  const decode = decoder(encoding);
  const text = decode(head);
  const [, name = '', mail = ''] = /^(.*?) ?<([^<>]*)>/.exec(field(text, 'author')) ?? [];
  const [, seconds = '0'] = /> (-?\d+) [+-]\d+$/.exec(field(text, 'committer')) ?? [];
  const message = gap < 0 ? '' : decode(bytes.subarray(gap + 2));
  const subject = firstParagraph(message);
  return {
    subject: subject.slice(0, 300) || '(no message)',
    author: name.trim().slice(0, 100) || '(nobody)',
    authorMail: mailOf(mail),
    at: Number(seconds) * 1000,
    tree: field(text, 'tree'),
  };
}

/** A mail address in small letters; null where it is none that mail could go to. */
export function mailOf(text: string): string | null {
  return text.includes('@') && text.length <= 254 ? text.toLowerCase() : null;
}

function firstParagraph(message: string): string {
  const lines = message.replace(/^(?:[^\S\n]*\n)+/, '').split('\n');
  const end = lines.findIndex((line) => line.trim() === '');
  return (end < 0 ? lines : lines.slice(0, end)).map((line) => line.trimEnd()).join(' ');
}

/** Text in the encoding that a commit names; UTF-8 where it names none or one that nobody knows. */
function decoder(encoding: string): (bytes: Buffer) => string {
  try {
    const named = new TextDecoder(encoding || 'utf-8');
    return (bytes) => named.decode(bytes);
  } catch (error) {
    if (error instanceof RangeError) return (bytes) => bytes.toString('utf8');
    throw error;
  }
}
