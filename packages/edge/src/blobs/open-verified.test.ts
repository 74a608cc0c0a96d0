import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import test, { type TestContext } from 'node:test';
import type { Digest } from '@vaquero/core';
import { makeVerifiedFiles } from './open-verified.ts';
import { BlobDamaged, blobPath } from './read-blob.ts';

function blob(t: TestContext, bytes: Buffer) {
  const store = mkdtempSync(join(tmpdir(), 'vaquero-verified-'));
  t.after(() => rmSync(store, { recursive: true, force: true }));
  const digest = createHash('sha256').update(bytes).digest('hex') as Digest;
  const path = blobPath(store, digest);
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, bytes, { mode: 0o644 });
  return { path, digest, files: makeVerifiedFiles(store) };
}

test('a large file is verified before it is given, and again once it is another', async (t) => {
  const bytes = Buffer.alloc(3 << 20, 'tide');
  const { path, digest, files } = blob(t, bytes);
  const open = async (): Promise<Buffer> => {
    const file = await files.open(digest, bytes.length);
    return file.readFile().finally(() => file.close());
  };
  const all = await Promise.all(Array.from({ length: 8 }, open));
  assert.ok(all.every((one) => one.equals(bytes)));
  // Other bytes of the same length: its times tell.
  writeFileSync(path, Buffer.alloc(bytes.length, 'ebb!'));
  await assert.rejects(open(), BlobDamaged);
  writeFileSync(path, bytes);
  assert.ok((await open()).equals(bytes));
  writeFileSync(path, bytes.subarray(1));
  await assert.rejects(open(), BlobDamaged);
  rmSync(path);
  await assert.rejects(open(), BlobDamaged);
});
