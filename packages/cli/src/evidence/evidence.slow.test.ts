import assert from 'node:assert/strict';
import { writeFileSync } from 'node:fs';
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
  const page = join(folder, 'page.html');
  writeFileSync(page, '<h1>one</h1>');
  const manifest = await vaquero(`manifest timetable 1 ${join(folder, 'manifest')}`);
  assert.ok(manifest.code === 0 || manifest.code === 2, manifest.err);
  await expectEach(service.operator, [
    ['inspection timetable', 0, /^secret-value +error +staging/m],
    ['provenance timetable 99', 3, /99/],
    [`check-provenance ${statement} ${page} --key ${key}`, 3, /./],
  ]);
});
