import assert from 'node:assert/strict';
import test from 'node:test';
import { type Digest, hostLabelOf } from '../digest.ts';
import { readArtifactHost } from './artifact-host.ts';

const base = 'artifacts.ferries.example:8080';
const digest = '0f'.repeat(32) as Digest;

test('the own address of an artifact names a digest or a build, whatever its port, case and trailing dot', () => {
  const label = hostLabelOf(digest);
  for (const host of [`${label}.artifacts.ferries.example`, `${label.toUpperCase()}.${base}`])
    assert.deepEqual(readArtifactHost(host, base), { by: 'digest', digest }, host);
  for (const host of [
    'build-218.timetable.artifacts.ferries.example.:1',
    'Build-218.Timetable.Artifacts.Ferries.Example',
  ])
    assert.deepEqual(
      readArtifactHost(host, base),
      { by: 'build', build: 218, project: 'timetable' },
      host,
    );
});

test('nothing else is one', () => {
  for (const host of [
    '',
    base,
    `.${base}`,
    `build-0.timetable.${base}`,
    `build-01.timetable.${base}`,
    `build-1234567890.timetable.${base}`,
    `build-7..${base}`,
    `build-7.${base}`,
    `x.build-7.timetable.${base}`,
    `timetable.build-7.${base}`,
    `${hostLabelOf(digest)}.ferries.example`,
    `${hostLabelOf(digest).slice(1)}.${base}`,
    `build-7.timetable.xartifacts.ferries.example`,
    `build-7.timetable.${base}.example`,
  ])
    assert.equal(readArtifactHost(host, base), undefined, host);
});
