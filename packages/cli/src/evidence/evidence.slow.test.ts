import assert from 'node:assert/strict';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { temporaryFolder } from '../../../../tests/support/place.ts';
import { startTestService } from '../../../../tests/support/service.ts';
import { recipeOf, writesPage } from '../../../../tests/support/working-copy.ts';
import { expectEach, runsAgainst } from '../run-for-tests.ts';

test('where an artifact came from is written out and checked without the service; one that was changed is told', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const vaquero = runsAgainst(service.operator);
  const folder = temporaryFolder(t);
  const kept = async (line: string, name: string): Promise<string> => {
    const { code, out, err } = await vaquero(line);
    assert.equal(code, 0, err);
    const path = join(folder, name);
    writeFileSync(path, out);
    return path;
  };
  const statement = await kept('provenance timetable 1', 'statement.json');
  const key = await kept('signing-key', 'key.pem');
  const manifest = join(folder, 'manifest.json');
  const changed = await kept('provenance timetable 1', 'changed.json');
  const envelope = JSON.parse(readFileSync(changed, 'utf8'));
  const other = Buffer.from(envelope.payload, 'base64').toString().replace('timetable', 'signage');
  writeFileSync(
    changed,
    JSON.stringify({ ...envelope, payload: Buffer.from(other).toString('base64') }),
  );
  await expectEach(service.operator, [
    ['inspection timetable', 0, /^secret-value +error +staging/m],
    ['provenance timetable 99', 3, /99/],
    [`manifest timetable 1 ${manifest}`, 0, /is the manifest of artifact [0-9a-f]{64}\./],
    [`manifest timetable 1 ${folder}/none/manifest.json`, 2, /cannot be written/],
    [`check-provenance ${statement} --key ${key} --manifest ${manifest}`, 0, /./],
    [`check-provenance ${statement} --key ${key} --manifest ${statement}`, 3, /./],
    [`check-provenance ${changed} --key ${key}`, 3, /was changed since/],
    [`check-provenance ${folder}/none.json --key ${key}`, 2, /none\.json/],
  ]);
});
