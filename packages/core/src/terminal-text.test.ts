import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { terminalText } from './terminal-text.ts';

test('colours pass and end with their line; nothing else that steers a terminal does', () => {
  const cases: readonly (readonly [string, string])[] = [
    ['\x1b[31mred\x1b[0m', '\x1b[31mred\x1b[0m\x1b[0m'],
    ['\x1b[1;38;5;208mx\ny', '\x1b[1;38;5;208mx\x1b[0m\ny'],
    ['\x1b[38;2;1;2;3mx', '\x1b[38;2;1;2;3mx\x1b[0m'],
    ['\x1b[2J\x1b[Hgone', 'gone'],
    ['\x1b]0;title\x07x', 'x'],
    ['\x1b]52;c;cm0gLXJm\x1b\\x', 'x'],
    ['\x1b]8;;http://a\x1b\\link\x1b]8;;\x1b\\', 'link'],
    ['\x1bP+q544e\x1b\\x', 'x'],
    ['\x1b[6nx\x1b[c', 'x'],
    ['\x1b[8mhidden', 'hidden'],
    ['\x1b[5mblinks', 'blinks'],
    ['\x1b[?1049hx', 'x'],
    ['\x1bcx\x1b7', 'x'],
    ['\u009b2Jx\u009d0;t\u009c', 'x'],
    ['a\bb\x07\0', 'ab'],
    ['10 %\r50 %\rdone\r\n', '10 %\n50 %\ndone\n'],
    ['\u202emoc.elpmaxe\u2066', 'moc.elpmaxe'],
    ['cut \x1b[', 'cut '],
    ['cut \x1b', 'cut '],
    ['tab\tü\n', 'tab\tü\n'],
  ];
  for (const [given, shown] of cases)
    assert.equal(terminalText(given, true), shown, JSON.stringify(given));
  assert.equal(terminalText('\x1b[31mred', false), 'red');
});

// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what must not be there.
const steering = /[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]/;
// biome-ignore lint/suspicious/noControlCharactersInRegex: colours alone begin with it.
const colours = /\x1b\[[0-9;:]*m/g;

test('whatever comes, no control character but tab and line end is left without colour', () => {
  const pieces = fc.constantFrom(
    '\x1b',
    '[',
    ']',
    '2',
    'J',
    'm',
    ';',
    '\x9b',
    '\x07',
    '\\',
    'P',
    'a',
    '\r',
    '\n',
    '\0',
    '\u202e',
  );
  fc.assert(
    fc.property(fc.array(fc.oneof(pieces, fc.string()), { maxLength: 30 }), (all) => {
      const text = all.join('');
      assert.doesNotMatch(terminalText(text, false), steering);
      assert.doesNotMatch(terminalText(text, true).replace(colours, ''), steering);
    }),
    { numRuns: 2000 },
  );
});
