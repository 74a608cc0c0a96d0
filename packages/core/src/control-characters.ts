/** Everything that a terminal, a header or a list of arguments may take for an order. Source: ECMA-48, Unicode category Cc. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: these characters are what is looked for.
const inLine = /[\u0000-\u001f\u007f-\u009f]/;
// biome-ignore lint/suspicious/noControlCharactersInRegex: as above.
const inText = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f]/;

/**
 * What is wrong with a text that strangers wrote, or null: the first control character in it, by name. A `text` may have
 * tabs and line ends, a `line` none.
 */
export function controlFault(written: string, kind: 'line' | 'text'): string | null {
  const place = written.search(kind === 'line' ? inLine : inText);
  if (place === -1) return null;
  const code = written.charCodeAt(place).toString(16).toUpperCase().padStart(4, '0');
  return `holds the control character U+${code}, which no ${kind} here may have; take it out`;
}

/** A fault of one text in a value, by its path. */
interface ControlFault {
  readonly path: string;
  readonly message: string;
}

const mostFaults = 10;

/** Faults of all texts in a value read from JSON, keys included, each with its path. At most ten. */
export function controlFaultsIn(value: unknown): readonly ControlFault[] {
  const faults: ControlFault[] = [];
  const open: { readonly at: string; readonly value: unknown }[] = [{ at: '', value }];
  for (let one = open.pop(); one !== undefined && faults.length < mostFaults; one = open.pop()) {
    const { at, value: here } = one;
    faults.push(...faultsOf(at, here));
    if (typeof here !== 'object' || here === null) continue;
    for (const [key, inner] of Object.entries(here))
      open.push({ at: at === '' ? key : `${at}.${key}`, value: inner });
  }
  return faults.slice(0, mostFaults);
}

function faultsOf(path: string, here: unknown): readonly ControlFault[] {
  if (typeof here === 'string') {
    const message = controlFault(here, 'text');
    return message === null ? [] : [{ path, message }];
  }
  if (typeof here !== 'object' || here === null) return [];
  return Object.keys(here).flatMap((key) => {
    const message = controlFault(key, 'line');
    return message === null ? [] : [{ path, message: `a key of it ${message}` }];
  });
}
