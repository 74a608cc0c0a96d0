import assert from 'node:assert/strict';
import test from 'node:test';
import { makeLogSender } from './log-sender.ts';
import { makeMask } from './secret-mask.ts';
import { makeStepLog } from './step-log.ts';

function aLog(mask: (line: string) => string) {
  let text = '';
  const sender = makeLogSender(
    (_offset, bytes) => {
      text += bytes.toString();
      return Promise.resolve();
    },
    1 << 20,
    () => assert.fail('lost'),
  );
  const log = makeStepLog(sender, 'pages', mask);
  return {
    hear: (part: string) => log.hear(Buffer.from(part)),
    end: log.end,
    said: async () => {
      await sender.flush();
      return text;
    },
  };
}

test('a secret is masked however it is written and wherever a piece ends', async () => {
  const value = 'low-water-at-six?';
  const mask = makeMask([
    { name: 'MAP_KEY', value },
    { name: 'SHORT', value: 'six' },
  ]);
  const forms = [
    value,
    encodeURIComponent(value),
    ...['', 'x', 'xy'].map((before) =>
      Buffer.from(`${before}${value}${before}`).toString('base64'),
    ),
    Buffer.from(`??${value}`).toString('base64url'),
  ];
  for (const form of forms) {
    for (let cut = 0; cut <= form.length; cut += 3) {
      const log = aLog(mask);
      log.hear(`key ${form.slice(0, cut)}`);
      log.hear(`${form.slice(cut)} end\nnext`);
      log.end();
      const said = await log.said();
      assert.match(said, /^key .*\[MAP_KEY\].* end\nnext\n$/, form);
      assert.ok(!said.includes('water') && !said.includes(form), said);
    }
  }
  assert.equal(mask('at six the desk opens'), 'at six the desk opens');
});

test('each line of a secret of several lines is masked', () => {
  const mask = makeMask([{ name: 'PEM', value: 'first-line\nsecond-line\n' }]);
  assert.equal(mask('a second-line b'), 'a [PEM] b');
});

test('a line without end is sent on in pieces, and no cut goes through a secret', async () => {
  const mask = makeMask([{ name: 'KEY', value: 'low-water-at-six' }]);
  const log = aLog(mask);
  const filler = 'x'.repeat(1000);
  for (let turn = 0; turn < 200; turn += 1) {
    log.hear(`${filler}low-water`);
    log.hear('-at-six');
  }
  log.end();
  const said = await log.said();
  assert.equal(said.includes('water'), false);
  assert.equal(said.split('[KEY]').length, 201);
});
