/** Which step said the bytes of a log from an offset on, and when (milliseconds since 1970 UTC). */
export interface LogSegment {
  readonly offset: number;
  readonly step: string;
  readonly at: number;
}

/** A line of a log with the step that said it. */
export interface SaidLine {
  readonly number: number;
  readonly step: string;
  readonly at: number | null;
  readonly text: string;
}

/**
 * The lines of a log, each with its step and time. `lines` are in order with their numbers and the byte offset at which each
 * begins; `segments` are in the order of their offsets.
 */
export function saidLines(
  lines: readonly { readonly number: number; readonly offset: number; readonly text: string }[],
  segments: readonly LogSegment[],
): readonly SaidLine[] {
  let place = -1;
  return lines.map(({ number, offset, text }) => {
    while ((segments[place + 1]?.offset ?? Number.POSITIVE_INFINITY) <= offset) place += 1;
    const segment = segments[place];
    return { number, step: segment?.step ?? '', at: segment?.at ?? null, text };
  });
}
