/** A stretch of a log: bytes from an offset to another, and how many lines had ended before it. */
export interface LogStretch {
  readonly from: number;
  readonly to: number;
  readonly linesBefore: number;
}

const newline = 10;

/**
 * Where a log is cut into pieces of about `size` bytes, so that a line of it can be found without opening the whole: behind
 * the last end of a line within that size or, where a line is longer, in the midst of it. Together they are the whole log, in order.
 */
export function cutLog(log: Uint8Array, size: number): readonly LogStretch[] {
  const stretches: LogStretch[] = [];
  let linesBefore = 0;
  for (let from = 0; from < log.length; ) {
    const most = Math.min(log.length, from + size);
    const end = most === log.length ? most : log.lastIndexOf(newline, most - 1) + 1;
    const to = end > from ? end : most;
    stretches.push({ from, to, linesBefore });
    linesBefore += endsOfLines(log.subarray(from, to));
    from = to;
  }
  return stretches;
}

/** How many lines end in these bytes. */
export function endsOfLines(bytes: Uint8Array): number {
  let count = 0;
  // A log may be nothing but ends of lines: looking for each by a call of its own takes twenty times as long.
  for (let at = 0; at < bytes.length; at += 1) if (bytes[at] === newline) count += 1;
  return count;
}

/** A line of a log: its number, from 1 on, and the byte at which it begins. */
export interface PlacedLine {
  readonly number: number;
  readonly offset: number;
  readonly text: string;
}

/**
 * Makes lines of the pieces of a log that follow each other. The first piece begins at the byte `offset`, behind so many ends of
 * lines; what it says of a line that began before it is left out, as are those before number `first`. `decode` makes text of a line's bytes, which come in parts:
 * a sign may be cut in two.
 */
export class LinesOfPieces {
  #offset: number;
  #number: number;
  /** What was said of a line that has not ended; null where its beginning is not known. */
  #open: Uint8Array[] | null;
  #length = 0;

  readonly #decode: (parts: readonly Uint8Array[]) => string;
  readonly #first: number;

  constructor(
    {
      offset,
      linesBefore,
      first = 1,
    }: { readonly offset: number; readonly linesBefore: number; readonly first?: number },
    decode: (parts: readonly Uint8Array[]) => string,
  ) {
    this.#decode = decode;
    this.#first = first;
    this.#offset = offset;
    this.#number = linesBefore + 1;
    this.#open = offset === 0 ? [] : null;
  }

  /** The lines that end in the next piece. */
  take(bytes: Uint8Array): readonly PlacedLine[] {
    const ends = this.#number < this.#first ? endsOfLines(bytes) : 0;
    if (ends > 0 && this.#number + ends <= this.#first) return this.#skip(bytes, ends);
    const lines: PlacedLine[] = [];
    let from = 0;
    for (let end = bytes.indexOf(newline); end !== -1; end = bytes.indexOf(newline, from)) {
      this.#say(bytes.subarray(from, end));
      lines.push(...this.#end(1));
      from = end + 1;
    }
    this.#say(bytes.subarray(from));
    return lines;
  }

  /** The line that the log stops in, if it does. */
  rest(): readonly PlacedLine[] {
    return this.#length === 0 ? [] : this.#end(0);
  }

  /** Passes over a piece in which only lines end that are not wanted. */
  #skip(bytes: Uint8Array, ends: number): readonly PlacedLine[] {
    const last = bytes.lastIndexOf(newline) + 1;
    this.#number += ends;
    this.#offset += this.#length + last;
    this.#length = 0;
    this.#open = [];
    this.#say(bytes.subarray(last));
    return [];
  }

  #say(bytes: Uint8Array): void {
    if (bytes.length === 0) return;
    this.#length += bytes.length;
    this.#open?.push(bytes);
  }

  #end(endLength: number): readonly PlacedLine[] {
    const said = this.#open;
    const isWanted = said !== null && this.#number >= this.#first;
    const line = isWanted && {
      number: this.#number,
      offset: this.#offset,
      text: this.#decode(said),
    };
    this.#number += 1;
    this.#offset += this.#length + endLength;
    this.#length = 0;
    this.#open = [];
    return line === false ? [] : [line];
  }
}
