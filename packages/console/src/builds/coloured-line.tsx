import Anser from 'anser';

/** The terminal's colours in ours: each has enough contrast in light and dark. */
const tones: Readonly<Record<string, string>> = {
  'ansi-red': 'text-bad',
  'ansi-bright-red': 'text-bad',
  'ansi-green': 'text-good',
  'ansi-bright-green': 'text-good',
  'ansi-yellow': 'text-warn',
  'ansi-bright-yellow': 'text-warn',
  'ansi-blue': 'text-action',
  'ansi-bright-blue': 'text-action',
  'ansi-cyan': 'text-action',
  'ansi-bright-cyan': 'text-action',
  'ansi-magenta': 'text-thread',
  'ansi-bright-magenta': 'text-thread',
  'ansi-bright-black': 'text-ink-3',
};

/** A line of a log with the colours its program gave it; all else that could steer a terminal is left out. */
export function ColouredLine({ text }: { readonly text: string }) {
  if (!text.includes('\u001b')) return text;
  const parts = Anser.ansiToJson(text, { use_classes: true, remove_empty: true });
  return parts.map((part, place) => (
    <span
      // biome-ignore lint/suspicious/noArrayIndexKey: the parts of a line that was said never change.
      key={place}
      className={[
        tones[part.fg] ?? '',
        part.decorations.includes('bold') ? 'font-[700]' : '',
        part.decorations.includes('dim') ? 'text-ink-3' : '',
        part.decorations.includes('underline') ? 'underline' : '',
      ].join(' ')}
    >
      {part.content.replace(control, '')}
    </span>
  ));
}

// biome-ignore lint/suspicious/noControlCharactersInRegex: what is left of escape sequences begins with it.
const control = /\u001b\[?[0-9;?]*[A-Za-z]?/g;
