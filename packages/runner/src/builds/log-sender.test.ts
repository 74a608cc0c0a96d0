import assert from 'node:assert/strict';
import test from 'node:test';
import { makeLogSender } from './log-sender.ts';

/** A receiver whose replies are given by hand. */
function receiver() {
  const pieces: { offset: number; text: string }[] = [];
  const replies: (() => void)[] = [];
  const send = (offset: number, bytes: Buffer): Promise<void> => {
    pieces.push({ offset, text: bytes.toString() });
    return new Promise((resolve) => replies.push(resolve));
  };
  const reply = async (): Promise<void> => {
    replies.shift()?.();
    await new Promise((resolve) => setImmediate(resolve));
  };
  return { pieces, send, reply };
}

test('what is said while a piece is under way joins the next, in order and without a gap', async () => {
  const { pieces, send, reply } = receiver();
  const sender = makeLogSender(send, 1000, () => assert.fail('lost'));
  assert.equal(sender.say(Buffer.from('one '), 'pages'), true);
  sender.say(Buffer.from('two '), 'pages');
  sender.say(Buffer.from('three'), 'pages');
  assert.deepEqual(pieces, [{ offset: 0, text: 'one ' }]);
  await reply();
  assert.deepEqual(pieces[1], { offset: 4, text: 'two three' });
  assert.equal(sender.length(), 13);
  const flushed = sender.flush();
  await reply();
  await flushed;
  sender.say(Buffer.from('!'), 'pages');
  assert.deepEqual(pieces[2], { offset: 13, text: '!' });
  await reply();
});

test('a log ends at its limit to the byte, and says that it is full', async () => {
  const sent: Buffer[] = [];
  const sender = makeLogSender(
    (_offset, bytes) => Promise.resolve(void sent.push(bytes)),
    10,
    () => assert.fail('lost'),
  );
  assert.equal(sender.say(Buffer.from('12345678'), 'pages'), true);
  assert.equal(sender.say(Buffer.from('9abc'), 'pages'), false);
  assert.equal(sender.say(Buffer.from('more'), 'pages'), false);
  await sender.flush();
  assert.equal(Buffer.concat(sent).toString(), '123456789a');
});

test('a large piece is cut, and a receiver that is gone is told once', async () => {
  const sizes: number[] = [];
  const big = makeLogSender(
    (_offset, bytes) => Promise.resolve(void sizes.push(bytes.length)),
    8 << 20,
    () => assert.fail('lost'),
  );
  big.say(Buffer.alloc((2 << 20) + 5), 'pages');
  await big.flush();
  assert.deepEqual(sizes, [1 << 20, 1 << 20, 5]);
  let lost = 0;
  const broken = makeLogSender(
    () => Promise.reject(new Error('gone')),
    1000,
    () => {
      lost += 1;
    },
  );
  broken.say(Buffer.from('a'), 'pages');
  await broken.flush();
  broken.say(Buffer.from('b'), 'pages');
  await broken.flush();
  assert.equal(lost, 1);
});
