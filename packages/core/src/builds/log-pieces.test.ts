import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { cutLog, endsOfLines, LinesOfPieces } from './log-pieces.ts';

const decode = (parts: readonly Uint8Array[]) => Buffer.concat(parts).toString('utf8');
const bytes = (text: string) => new TextEncoder().encode(text);

test('a log is cut behind ends of lines, and within a line that is longer than a piece', () => {
  const cut = cutLog(bytes('one\ntwo\na very long line\nend'), 9);
  assert.deepEqual(
    cut.map(({ from, to, linesBefore }) => [from, to, linesBefore]),
    [
      [0, 8, 0],
      [8, 17, 2],
      [17, 25, 2],
      [25, 28, 3],
    ],
  );
  assert.deepEqual(cutLog(bytes(''), 9), []);
});

test('whatever a log says its pieces are all of it, and count its lines', () => {
  fc.assert(
    fc.property(
      fc.array(fc.constantFrom(10, 97, 98)),
      fc.integer({ min: 1, max: 12 }),
      (said, size) => {
        const log = Uint8Array.from(said);
        const pieces = cutLog(log, size);
        let at = 0;
        for (const { from, to, linesBefore } of pieces) {
          assert.equal(from, at);
          assert.ok(to > from && to - from <= size);
          assert.equal(linesBefore, endsOfLines(log.subarray(0, from)));
          at = to;
        }
        assert.equal(at, log.length);
        const text = new TextDecoder().decode(log);
        const lines =
          text.endsWith('\n') || text === '' ? text.split('\n').slice(0, -1) : text.split('\n');
        for (const first of pieces) {
          const reader = new LinesOfPieces(
            { offset: first.from, linesBefore: first.linesBefore },
            decode,
          );
          const read = pieces
            .filter(({ from }) => from >= first.from)
            .flatMap(({ from, to }) => reader.take(log.subarray(from, to)));
          // Behind the line in which the first of them begins all are as they are.
          const skipped = first.from === 0 ? 0 : first.linesBefore + 1;
          assert.deepEqual(
            [...read, ...reader.rest()].map((line) => [line.number, line.text]),
            lines.map((line, place) => [place + 1, line]).slice(skipped),
          );
          const wanted = Math.ceil(lines.length / 2);
          const later = new LinesOfPieces({ offset: 0, linesBefore: 0, first: wanted }, decode);
          const some = pieces.flatMap(({ from, to }) => later.take(log.subarray(from, to)));
          assert.deepEqual(
            [...some, ...later.rest()].map((line) => [line.number, line.text]),
            lines.map((line, place) => [place + 1, line]).slice(Math.max(0, wanted - 1)),
          );
          for (const { offset, text: said } of [...read, ...some])
            assert.ok(text.slice(offset).startsWith(`${said}\n`));
        }
      },
    ),
  );
});
